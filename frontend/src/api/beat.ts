/** Nothing heard for so long in a visible page: what is shown is old. */
export const OLD_AFTER_MS = 1500
const LOOKS_EVERY_MS = 250
const LOOKS_AGAIN_MS = 100

/** Watch whether the server is heard. `onOld` is told since when [ms of the wall clock] nothing came, and `null` when it is heard
 * again. A page that was hidden, or busy with itself, first reads what came meanwhile. */
export function watchBeat(onOld: (since: number | null) => void) {
  let heardAt = Date.now()
  let isOld = false
  let again: ReturnType<typeof setTimeout> | undefined
  const isSilent = () => !document.hidden && Date.now() - heardAt > OLD_AFTER_MS

  function heard() {
    heardAt = Date.now()
    if (isOld) onOld(null)
    isOld = false
  }

  function look() {
    if (isOld || !isSilent()) return
    clearTimeout(again)
    again = setTimeout(() => {
      if (isOld || !isSilent()) return
      isOld = true
      onOld(heardAt)
    }, LOOKS_AGAIN_MS)
  }

  const shown = () => {
    if (!document.hidden && !isOld) heardAt = Date.now() // a hidden page hears late: it gets its time first
  }
  document.addEventListener('visibilitychange', shown)
  const timer = setInterval(look, LOOKS_EVERY_MS)
  function stop() {
    clearInterval(timer)
    clearTimeout(again)
    document.removeEventListener('visibilitychange', shown)
  }
  return { heard, stop }
}

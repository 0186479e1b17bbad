import { onScopeDispose } from 'vue'

const SECOND_PRESS_MS = 300

/** Call `actions[key]` for keys pressed outside of inputs. A held key acts once; space not twice within 300 ms. */
export function useKeys(
  actions: Record<string, (event: KeyboardEvent) => void>,
  released: Record<string, () => void> = {},
) {
  let lastSpace = 0

  function down(event: KeyboardEvent) {
    const target = event.target as HTMLElement
    if (target.matches('input:not([type=range]), textarea, select') || event.ctrlKey || event.metaKey || event.altKey)
      return
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
    const action = actions[key] ?? (/^[0-9]$/.test(key) ? actions['digit'] : undefined)
    if (!action) return
    const steps = key.startsWith('Arrow')
    if (event.repeat && !steps) return event.preventDefault()
    if (key === ' ') {
      const now = performance.now()
      event.preventDefault()
      if (now - lastSpace < SECOND_PRESS_MS) return
      lastSpace = now
      if (target instanceof HTMLButtonElement) target.blur()
    }
    if (steps) event.preventDefault()
    action(event)
  }

  function up(event: KeyboardEvent) {
    if (event.key === ' ') event.preventDefault() // a button in focus would be pressed a second time
    released[event.key.toLowerCase()]?.()
  }

  addEventListener('keydown', down)
  addEventListener('keyup', up)
  onScopeDispose(() => {
    removeEventListener('keydown', down)
    removeEventListener('keyup', up)
  })
}

/** The keys of the flight screen and what they do, as `?` shows them. */
export const KEYS: [string, string][] = [
  ['Space', 'done, next phase'],
  ['Backspace', 'take back'],
  ['0–9', 'number pad'],
  ['C', 'start the clock, count one'],
  ['I', 'interrupted'],
  ['↑ ↓', 'throttle'],
  ['← →', 'mixture'],
  ['O L R B', 'magnetos off, left, right, both'],
  ['S (hold)', 'starter'],
  ['P, K', 'prime, lock primer'],
  ['H', 'carburettor heat'],
  ['M, A, F', 'master, alternator, fuel pump'],
  ['E', 'emergency card'],
  ['?', 'these keys'],
]

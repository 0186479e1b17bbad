import { onScopeDispose } from 'vue'

const SECOND_PRESS_MS = 300

/** What space and Enter press by themselves, where they have the focus. */
const PRESSED_BY_ITSELF = 'button, a, summary'

/** Call `actions[key]` for keys pressed outside of inputs; `stands` says for which key a learned one is pressed, whatever has the focus. A key acts on what has the focus: space and Enter on a button press
 * that and nothing else, arrows move the slider in focus. A held key acts once; space not twice within 300 ms. */
export function useKeys(
  actions: Record<string, (event: KeyboardEvent) => void>,
  released: Record<string, () => void> = {},
  stands: (code: string) => string | undefined = () => undefined,
) {
  let lastSpace = 0

  function down(event: KeyboardEvent) {
    const target = event.target as HTMLElement
    if (target.matches('input:not([type=range]), textarea, select') || event.ctrlKey || event.metaKey || event.altKey)
      return
    const other = stands(event.code)
    if (!other && (event.key === ' ' || event.key === 'Enter') && target.closest(PRESSED_BY_ITSELF)) return
    const key = other ?? (event.key.length === 1 ? event.key.toLowerCase() : event.key)
    const action = actions[key] ?? (/^[0-9]$/.test(key) ? actions['digit'] : undefined)
    if (!action) return
    event.preventDefault()
    if (event.repeat) return
    if (key === ' ') {
      const now = performance.now()
      if (now - lastSpace < SECOND_PRESS_MS) return
      lastSpace = now
    }
    action(event)
  }

  function up(event: KeyboardEvent) {
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
  ['Space', 'done, next phase; on a button: that button'],
  ['Backspace', 'take back; on the pad: one digit'],
  ['0–9', 'number pad'],
  ['C', 'start the clock, count one'],
  ['I', 'interrupted'],
  ['Enter', 'take the figure on the pad'],
  ['T N X', 'to throttle, propeller, mixture; then ↑ ↓'],
  ['O L R B', 'magnetos off, left, right, both'],
  ['S (hold)', 'starter'],
  ['P, K', 'prime, lock primer'],
  ['H', 'carburettor heat'],
  ['M, A, F', 'master, alternator, fuel pump'],
  ['E', 'emergency card'],
  ['Y', 'all cylinders'],
  ['?', 'these keys'],
]

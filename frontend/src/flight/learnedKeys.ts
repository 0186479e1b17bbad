import { useEventListener, useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'

/** What a key, a pedal or a button on the yoke may be learned for, and the key that does the same by itself. */
export const LEARNABLE = { done: ['Done', ' '], back: ['Back', 'Backspace'], clock: ['Clock', 'c'] } as const
type Deed = keyof typeof LEARNABLE

const learnedKeys = () => useLocalStorage<Partial<Record<Deed, string>>>('learned_keys', {})

/** Return the key that a learned one does, or undefined: `code` is the place of a key, whatever is printed on it. */
export function useLearnedKeys() {
  const learned = learnedKeys()
  return (code: string) => {
    const deed = (Object.keys(LEARNABLE) as Deed[]).find((one) => learned.value[one] === code)
    return deed && LEARNABLE[deed][1]
  }
}

/** Learn a key for a deed by pressing it once; one key does one thing. */
export function useKeyLearning() {
  const learned = learnedKeys()
  const waiting = ref<Deed>()
  useEventListener('keydown', (event) => {
    if (!waiting.value) return
    event.preventDefault()
    const others = Object.entries(learned.value).filter(([, code]) => code !== event.code)
    if (event.code !== 'Escape') learned.value = { ...Object.fromEntries(others), [waiting.value]: event.code }
    waiting.value = undefined
  })
  const forget = (deed: Deed) => (learned.value = { ...learned.value, [deed]: undefined })
  return { learned, waiting, forget }
}

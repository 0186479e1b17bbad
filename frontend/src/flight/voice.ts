import { useLocalStorage } from '@vueuse/core'

/** What the browser's own voice says: nothing, alarms alone, or items and verdicts too. */
export const VOICES = { off: 'Nothing', alarms: 'Alarms', all: 'Items, verdicts and alarms' } as const

/** Speech out by the voices of the browser; an alarm cuts off what is being said. */
export function useVoice() {
  const voice = useLocalStorage<keyof typeof VOICES>('voice', 'off')

  function say(words: string, isAlarm: boolean) {
    const isWanted = voice.value === 'all' || (voice.value === 'alarms' && isAlarm)
    if (!words || !isWanted || !('speechSynthesis' in window)) return
    if (isAlarm) speechSynthesis.cancel()
    speechSynthesis.speak(new SpeechSynthesisUtterance(words))
  }

  return { voice, say }
}

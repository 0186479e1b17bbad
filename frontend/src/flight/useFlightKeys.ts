import type { Ref, ShallowRef } from 'vue'
import type EngineLevers from '@/practice/EngineLevers.vue'
import { useLeverKeys } from '@/practice/leverKeys'
import type ManualEntry from './ManualEntry.vue'
import { useFlight } from './flight'
import { useLearnedKeys } from './learnedKeys'
import { useKeys } from './useKeys'

interface Screen {
  /** What the main button does. */
  go: () => unknown
  /** Which card is open beside the flight. */
  card: Ref<'keys' | 'emergency' | 'briefing' | 'cylinders' | 'where' | undefined>
  /** Whether figures are typed. */
  isTyping: Ref<boolean>
  /** The pad, where one is open. */
  pad: Readonly<ShallowRef<InstanceType<typeof ManualEntry> | null>>
  /** The levers, where there are some. */
  levers: Readonly<ShallowRef<InstanceType<typeof EngineLevers> | null>>
}

/** What each key does on the flight screen. */
export function useFlightKeys({ go, card, isTyping, pad, levers }: Screen) {
  const flight = useFlight()
  const leverKeys = useLeverKeys(levers)
  const toggle = (which: 'keys' | 'emergency' | 'cylinders') => () =>
    (card.value = card.value === which ? undefined : which)
  const item = () => flight.frame?.item ?? null
  useKeys(
    {
      ' ': go,
      Backspace: () => (pad.value ? pad.value.back() : flight.undo()),
      Enter: () => pad.value?.take(),
      '?': toggle('keys'),
      e: toggle('emergency'),
      y: () => flight.frame?.cylinders.length && toggle('cylinders')(),
      c: () => {
        const now = item()
        if (now?.hold_s) void flight.event('timer_started', { item: now.id })
        if (now?.count_to) void flight.event('counted', { item: now.id, by: 1 })
      },
      i: () => flight.event('interrupted', {}),
      Escape: () => ((card.value = undefined), (isTyping.value = false)),
      digit: (event) => {
        if (!item()?.manual) return
        isTyping.value = true
        requestAnimationFrame(() => pad.value?.type(event.key))
      },
      ...leverKeys.pressed,
    },
    leverKeys.released,
    useLearnedKeys(),
  )
}

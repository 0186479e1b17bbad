import { useIntervalFn } from '@vueuse/core'
import { computed, watch } from 'vue'
import type { StartNow } from '@/api/schema'
import { useTones } from './useTones'

const AGAIN_MS = 2_000

/** What is heard while both hands are busy: a tone once where one is asked for, an alarm again and again while something must stop. */
export function useStartTones(large: () => StartNow['large']) {
  const tones = useTones()
  const mustStop = computed(() => large()?.mode === 'stop' || large()?.mode === 'let_go')
  const alarm = useIntervalFn(() => tones.alarm(), AGAIN_MS, { immediate: false, immediateCallback: true })
  watch(mustStop, (now) => (now ? alarm.resume() : alarm.pause()), { immediate: true })
  watch(
    () => !mustStop.value && !!large()?.tone,
    (now) => now && tones.done(),
  )
}

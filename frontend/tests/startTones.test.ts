import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import type { StartNow } from '@/api/schema'
import { useStartTones } from '@/flight/useStartTones'
import { useTones } from '@/flight/useTones'
import { useDisplay } from '@/parts/display'

type Large = NonNullable<StartNow['large']>
const large = (mode: Large['mode'], tone: boolean): Large => ({ mode, say: '', figure: '', line: '', tone })
let heard: number[] = []

class Sound {
  currentTime = 0
  destination = {}
  resume = async () => undefined
  createGain = () => ({ gain: { setValueAtTime() {}, exponentialRampToValueAtTime() {} }, connect: () => ({}) })
  createOscillator = () => {
    const frequency = {
      set value(hertz: number) {
        heard.push(hertz)
      },
    }
    return { frequency, connect: () => ({ connect() {} }), start() {}, stop() {} }
  }
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('AudioContext', Sound)
  setActivePinia(createPinia())
  useDisplay().sound = true
  useTones().unlock()
  heard = []
})

it('sounds a tone once, however many frames ask for it, and an alarm every two seconds until it is over', async () => {
  const now = ref<Large | null>(large('oil', false))
  const scope = effectScope()
  scope.run(() => useStartTones(() => now.value))
  for (let frame = 0; frame < 5; frame++) {
    now.value = large('oil', true)
    await nextTick()
  }
  expect(heard).toEqual([880])
  for (let frame = 0; frame < 5; frame++) {
    now.value = large('stop', true)
    await nextTick()
  }
  expect(heard).toEqual([880, 440])
  vi.advanceTimersByTime(4_100)
  expect(heard).toEqual([880, 440, 440, 440])
  now.value = large('oil', false)
  await nextTick()
  vi.advanceTimersByTime(10_000)
  expect(heard).toHaveLength(4)
  scope.stop()
})

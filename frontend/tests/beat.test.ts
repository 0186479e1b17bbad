import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { watchBeat } from '@/api/beat'

let told: (number | null)[] = []
let hidden = false
beforeEach(() => {
  vi.useFakeTimers()
  told = []
  hidden = false
  vi.spyOn(document, 'hidden', 'get').mockImplementation(() => hidden)
})
afterEach(() => vi.useRealTimers())

it('says nothing while the server is heard', () => {
  const beat = watchBeat((since) => told.push(since))
  for (let n = 0; n < 50; n++) {
    vi.advanceTimersByTime(1400)
    beat.heard()
  }
  expect(told).toEqual([])
  beat.stop()
})

it('says since when nothing came, once, and that it is heard again', () => {
  const beat = watchBeat((since) => told.push(since))
  vi.advanceTimersByTime(700)
  beat.heard()
  const last = Date.now()
  vi.advanceTimersByTime(1400)
  expect(told).toEqual([])
  vi.advanceTimersByTime(600)
  expect(told).toEqual([last])
  vi.advanceTimersByTime(20_000)
  expect(told).toEqual([last])
  beat.heard()
  expect(told).toEqual([last, null])
  beat.stop()
})

it('gives a page that was hidden its time to hear', () => {
  const beat = watchBeat((since) => told.push(since))
  hidden = true
  vi.advanceTimersByTime(60_000)
  expect(told).toEqual([])
  hidden = false
  document.dispatchEvent(new Event('visibilitychange'))
  vi.advanceTimersByTime(1200)
  beat.heard()
  vi.advanceTimersByTime(1200)
  expect(told).toEqual([])
  beat.stop()
})

import { afterEach, expect, it, vi } from 'vitest'
import { newestOnly } from '@/api/stream'

afterEach(() => vi.unstubAllGlobals())

it('hands over the newest text once a painted picture, and no older one', () => {
  let paint: FrameRequestCallback = () => undefined
  const asked = vi.fn((work: FrameRequestCallback) => ((paint = work), 1))
  vi.stubGlobal('requestAnimationFrame', asked)
  const seen: string[] = []
  const take = newestOnly((text) => seen.push(text))
  take('one')
  take('two')
  take('three')
  expect(asked).toHaveBeenCalledTimes(1)
  paint(0)
  expect(seen).toEqual(['three'])
  take('four')
  paint(1)
  expect(seen).toEqual(['three', 'four'])
})

it('hands over on a hidden page too, where nothing is painted', async () => {
  vi.useFakeTimers()
  vi.spyOn(document, 'hidden', 'get').mockReturnValue(true)
  const seen: string[] = []
  const take = newestOnly((text) => seen.push(text))
  take('one')
  take('two')
  vi.advanceTimersByTime(1000)
  expect(seen).toEqual(['two'])
  vi.useRealTimers()
})

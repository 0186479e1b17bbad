import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, type EffectScope } from 'vue'
import { useKeys } from '@/flight/useKeys'

let scope: EffectScope
const forward = vi.fn()
const digit = vi.fn()
const released = vi.fn()

beforeEach(() => {
  vi.clearAllMocks()
  scope = effectScope()
  scope.run(() => useKeys({ ' ': forward, digit, s: vi.fn() }, { s: released }))
})
afterEach(() => scope.stop())

function press(key: string, more: KeyboardEventInit = {}, on: HTMLElement = document.body) {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more })
  on.dispatchEvent(event)
  return event
}

it('takes space once within a third of a second', () => {
  const now = vi.spyOn(performance, 'now')
  now.mockReturnValue(1000)
  press(' ')
  now.mockReturnValue(1299)
  press(' ')
  expect(forward).toHaveBeenCalledTimes(1)
  now.mockReturnValue(1601)
  press(' ')
  expect(forward).toHaveBeenCalledTimes(2)
})

it('acts once with a held key', () => {
  press('7', { repeat: true })
  expect(digit).not.toHaveBeenCalled()
  press('7')
  expect(digit).toHaveBeenCalledTimes(1)
})

it.each(['button', 'a', 'summary'])(
  'leaves space to a %s in focus, and takes letters and digits all the same',
  (tag) => {
    const focused = document.body.appendChild(document.createElement(tag))
    vi.spyOn(performance, 'now').mockReturnValue(5000)
    expect(press(' ', {}, focused).defaultPrevented).toBe(false)
    expect(forward).not.toHaveBeenCalled()
    press('7', {}, focused)
    expect(digit).toHaveBeenCalledTimes(1)
    focused.remove()
  },
)

it('leaves arrows to the slider in focus', () => {
  const slider = document.body.appendChild(document.createElement('input'))
  slider.type = 'range'
  expect(press('ArrowUp', {}, slider).defaultPrevented).toBe(false)
  slider.remove()
})

it('leaves what is typed into a field alone, and keys of the browser', () => {
  const field = document.body.appendChild(document.createElement('input'))
  press(' ', {}, field)
  press(' ', { ctrlKey: true })
  expect(forward).not.toHaveBeenCalled()
  field.remove()
})

it('works on a slider, which is no field to type into', () => {
  const slider = document.body.appendChild(document.createElement('input'))
  slider.type = 'range'
  vi.spyOn(performance, 'now').mockReturnValue(9000)
  press(' ', {}, slider)
  expect(forward).toHaveBeenCalledTimes(1)
  slider.remove()
})

it('lets go when a key is released, and of everything when the screen closes', () => {
  dispatchEvent(new KeyboardEvent('keyup', { key: 's' }))
  expect(released).toHaveBeenCalledTimes(1)
  scope.stop()
  dispatchEvent(new KeyboardEvent('keyup', { key: 's' }))
  expect(released).toHaveBeenCalledTimes(1)
})

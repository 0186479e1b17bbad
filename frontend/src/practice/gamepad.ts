import { useEventListener, useLocalStorage, useRafFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useHands } from './hands'

/** Which axis of which controller moves a lever, and which way is forward. */
interface Axis {
  controller: string
  axis: number
  /** What it reads at the lever's zero, and at its full travel. */
  from: number
  to: number
}

const MOVED = 0.6 // of an axis, to be taken for the one that is meant
const SMALLEST = 0.004 // below it is the jitter of a potentiometer

const readAxes = () =>
  [...navigator.getGamepads()].flatMap((pad) =>
    pad ? [...pad.axes].map((value, axis) => ({ controller: pad.id, axis, value })) : [],
  )

/** A game controller or a throttle quadrant moves the levers of the simulated engine: each lever is learned by moving it once from its
 * zero to its full travel, and kept. */
export function useGamepad() {
  const hands = useHands()
  const axes = useLocalStorage<Record<string, Axis>>('gamepad_axes', {})
  const learning = ref<string>()
  const last: Record<string, number> = {}
  let rest: ReturnType<typeof readAxes> = []
  const isThere = ref(false)

  /** Learn a lever: its axis rests at zero now, and is moved all the way. */
  function learn(lever: string) {
    rest = readAxes()
    learning.value = lever
  }
  const forget = (lever: string) => delete axes.value[lever]

  function take(now: ReturnType<typeof readAxes>) {
    for (const one of now) {
      const before = rest.find((r) => r.controller === one.controller && r.axis === one.axis)
      if (!before || Math.abs(one.value - before.value) < MOVED) continue
      const to = Math.sign(one.value - before.value)
      axes.value[learning.value!] = { controller: one.controller, axis: one.axis, from: before.value, to }
      last[learning.value!] = 1 // it is all the way now: where it goes next is a move
      learning.value = undefined
      return
    }
  }

  // read on every picture of the screen, which keeps it awake: only while there is one to read
  const { pause, resume } = useRafFn(look, { immediate: false })
  useEventListener(window, 'gamepadconnected', resume)
  if (readAxes().length) resume()

  function look() {
    const now = readAxes()
    isThere.value = now.length > 0
    if (!isThere.value) return pause()
    if (learning.value) return take(now)
    for (const [lever, own] of Object.entries(axes.value)) {
      const read = now.find((one) => one.controller === own.controller && one.axis === own.axis)
      if (!read) continue
      const at = Math.min(Math.max((read.value - own.from) / (own.to - own.from), 0), 1)
      if (Math.abs(at - (last[lever] ?? -1)) < SMALLEST) continue
      if (last[lever] !== undefined) void hands.move({ [lever]: at }) // the first reading is where it rests, not a move
      last[lever] = at
    }
  }

  return { isThere, learning, learned: computed(() => Object.keys(axes.value)), learn, forget }
}

import type { ShallowRef } from 'vue'
import type EngineLevers from './EngineLevers.vue'
import { useHands } from './hands'

type Levers = InstanceType<typeof EngineLevers>

/** What each key does to the levers of the simulated engine, and what letting it go does. */
export function useLeverKeys(levers: Readonly<ShallowRef<Levers | null>>) {
  const hands = useHands()
  const lever = (act: (l: Levers) => void) => () => {
    if (levers.value) act(levers.value)
  }
  const pressed = {
    t: lever((l) => l.focus('throttle')),
    n: lever((l) => l.focus('prop')),
    x: lever((l) => l.focus('mixture')),
    o: lever((l) => l.mag('OFF')),
    l: lever((l) => l.mag('L')),
    r: lever((l) => l.mag('R')),
    b: lever((l) => l.mag('BOTH')),
    s: lever((l) => l.press()),
    p: () => hands.act(),
    k: lever((l) => l.lock()),
    h: lever((l) => l.flip('carb_heat')),
    m: lever((l) => l.flip('master')),
    a: lever((l) => l.flip('alternator')),
    f: lever((l) => l.flip('pump')),
  }
  return { pressed, released: { s: lever((l) => l.release()) } }
}

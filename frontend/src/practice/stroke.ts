/** How a lever is held on its way: places that it rests in, a gate that one stroke does not pass, and its friction. */
export interface Held {
  /** Where it rests by itself, from 0 to 1. */
  detents: readonly number[]
  /** What lies below is behind a gate (a mixture's cut-off, a propeller's feather): reached by a stroke that begins at it. */
  gate: number | null
}
const RESTS_WITHIN = 0.03
const STICKS_WITHIN = 0.02 // of its travel; far less than a pull, more than the jitter of a finger in rough air
const AT_GATE = 0.005 // a slider's step: the place of a lever comes rounded from the engine

/** Where a hand that began its stroke at one place gets the lever, when it pulls to another: [0, 1]. */
export function stroke(began: number, to: number, held: Held): number {
  const wanted = Math.min(Math.max(to, 0), 1)
  if (held.gate !== null && began > held.gate + AT_GATE && wanted < held.gate) return held.gate
  const rest = held.detents.find((place) => Math.abs(place - wanted) <= RESTS_WITHIN)
  return rest ?? wanted
}

/** Whether a finger that took a lever at one place and is at another has overcome its friction; it then moves freely until let go. */
export const breaksLoose = (began: number, to: number) => Math.abs(to - began) > STICKS_WITHIN

/** How a lever is held on its way: places that it rests in, and a gate that one stroke does not pass. */
export interface Held {
  /** Where it rests by itself, from 0 to 1. */
  detents: readonly number[]
  /** What lies below is behind a gate (a mixture's cut-off, a propeller's feather): reached by a stroke that begins at it. */
  gate: number | null
}
const RESTS_WITHIN = 0.03
const AT_GATE = 0.005 // a slider's step: the place of a lever comes rounded from the engine

/** Where a hand that began its stroke at one place gets the lever, when it pulls to another: [0, 1]. */
export function stroke(began: number, to: number, held: Held): number {
  const wanted = Math.min(Math.max(to, 0), 1)
  if (held.gate !== null && began > held.gate + AT_GATE && wanted < held.gate) return held.gate
  const rest = held.detents.find((place) => Math.abs(place - wanted) <= RESTS_WITHIN)
  return rest ?? wanted
}

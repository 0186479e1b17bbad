import type { Draft } from './useDraft'

/** What is wrong with a field, in one line: the rule, and the way out. */
export function wrongBeside(draft: Draft, place: string): string | undefined {
  const one = draft.wrongAt.value.get(place)
  return one && `${one.rule} ${one.way_out}`
}

/** What is wrong with a part, itself or any field in it. */
export function wrongWithin(draft: Draft, place: string): string | undefined {
  const one = draft.wrong.value.find((row) => row.place === place || row.place.startsWith(`${place}.`))
  return one && `${one.rule} ${one.way_out}`
}

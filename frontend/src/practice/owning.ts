import { computed, type Ref } from 'vue'
import type { Cockpit, Control } from '@/api/schema'

/** A lever of one engine: its name for the hand, in full for who hears it, and the side alone. */
export interface Own {
  id: string
  full: string
  side: string
}

/** The positions of a magneto switch. */
export const MAGS = ['OFF', 'L', 'R', 'BOTH']

/** How the levers of an engine begin, by its number. */
export const prefixOf = (engine: number) => (engine === 2 ? 'e2_' : '')

/** Whose levers are whose: those of a twin are there for each engine, but for what both share. `engine`: whose the keys move. */
export function useOwning(cockpit: Readonly<Ref<Cockpit>>, engine: () => number) {
  const isTwin = computed(() => cockpit.value.engines.length > 1)
  const of = (kind: Control['kind']) => cockpit.value.controls.filter((c) => c.kind === kind)
  const ownOf = (control: { id: string; name: string; shared?: boolean }): Own[] =>
    isTwin.value && !control.shared
      ? cockpit.value.engines.map((e) => ({
          id: prefixOf(e.number) + control.id,
          full: `${control.name}, ${e.name.toLowerCase()}`,
          side: e.name.split(' ')[0]!,
        }))
      : [{ id: control.id, full: control.name, side: '' }]
  const owns = (kind: Control['kind']) =>
    of(kind).flatMap((c) => ownOf(c).map((own) => ({ ...own, positions: c.positions })))
  const actions = computed(() =>
    cockpit.value.actions.flatMap((a) =>
      ownOf({ ...a, shared: a.id === 'prime_strokes' }).map((own) => ({
        id: own.id,
        name: own.side ? `${own.side} ${a.name.toLowerCase()}` : a.name,
      })),
    ),
  )
  /** The lever that a key moves. */
  const full = (name: string) => {
    const control = cockpit.value.controls.find((c) => c.id === name)
    return control && !control.shared ? prefixOf(isTwin.value ? engine() : 1) + name : name
  }
  return { isTwin, of, ownOf, owns, actions, full }
}

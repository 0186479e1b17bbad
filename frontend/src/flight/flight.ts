import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { answer, api, newId } from '@/api/client'
import type { BodyOf, PostedEvent } from '@/api/letters'
import { useOutbox } from '@/api/outbox'
import type { Frame } from '@/api/schema'
import { watchBeat } from '@/api/beat'
import { listenToFrames } from '@/api/stream'
import { prefixOf } from '@/practice/owning'

interface Point {
  t: number
  rpm: number | null
  egt: number | null
  /** Where the magneto switch was, where the levers are known. */
  mag: string | null
}
const TRACE_S = 90

/** The flight that is going on, as the newest frame says, and what the pilot says of it. */
export const useFlight = defineStore('flight', () => {
  const frame = shallowRef<Frame | null>(null)
  const away = ref(false)
  const trace = shallowRef<Point[]>([])
  const outbox = useOutbox()
  /** Since when [ms of the wall clock] nothing was heard from the server: what is shown is old. */
  const oldSince = ref<number | null>(null)
  let stop: (() => void) | undefined

  function take(next: Frame) {
    if (frame.value?.flight === next.flight && next.last_seq < frame.value.last_seq) return // an older frame came late
    if (frame.value && frame.value.flight !== next.flight) trace.value = []
    frame.value = next
    const last = trace.value.at(-1)
    if (next.rpm === null || (last && next.at_s <= last.t)) return
    const switched = next.levers[`${prefixOf(next.item?.engine ?? 1)}mag`]
    const mag = typeof switched === 'string' ? switched : null
    const point = { t: next.at_s, rpm: next.rpm, egt: next.mean_egt_f, mag }
    trace.value = [...trace.value.filter((p) => p.t > next.at_s - TRACE_S), point]
  }

  outbox.showFramesTo(take)

  async function open() {
    frame.value = null // what was left here may be of a flight that is over: nothing is said to that one
    stop ??= listen() // first of all: whatever else fails, the needles are live or are said to be old
    const { frame: first } = await answer(api.GET('/api/live'))
    if (!first) return
    take(first)
    const curve = await answer(api.GET('/api/live/curve')).catch(() => null)
    const point = (t: number, i: number) => ({ t, rpm: curve?.rpm[i] ?? null, egt: curve?.egt_f[i] ?? null, mag: null })
    if (curve) trace.value = curve.time_s.map(point)
  }

  function listen() {
    const beat = watchBeat((since) => {
      oldSince.value = since
      if (since === null) outbox.hurry()
    })
    const onHeard = () => {
      away.value = false
      beat.heard()
    }
    const quit = listenToFrames({ onFrame: take, onHeard, onAway: () => (away.value = true) })
    return () => {
      quit()
      beat.stop()
    }
  }

  function close() {
    stop?.()
    stop = undefined
    oldSince.value = null
  }

  function event<K extends PostedEvent['kind']>(kind: K, body: BodyOf<K>) {
    const flight = frame.value?.flight
    if (!flight) return
    return outbox.send({ way: 'event', flight, body: { id: newId(), kind, body } as PostedEvent })
  }

  /** Confirm the current item, with the reading that was on the screen when the pilot said so. */
  const confirm = () => {
    const item = frame.value?.item
    if (!item) return
    return event('item_done', item.shown === null ? { item: item.id } : { item: item.id, shown: item.shown })
  }
  const enter = (phase: string) => event('phase_entered', { phase })
  const undo = () => {
    if (frame.value) return outbox.takeBack(frame.value.flight, frame.value.undoable)
  }

  return { frame, away, oldSince, trace, open, close, take, event, confirm, enter, undo }
})

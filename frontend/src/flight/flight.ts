import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { get } from '@/api/client'
import { listenToFrames } from '@/api/stream'
import type { Frame } from '@/api/schema'
import { newId, useOutbox } from '@/api/outbox'

interface Point {
  t: number
  rpm: number
  egt: number | null
}
const TRACE_S = 90

/** The flight that is going on, as the newest frame says, and what the pilot does to it. */
export const useFlight = defineStore('flight', () => {
  const frame = shallowRef<Frame | null>(null)
  const away = ref(false)
  const trace = shallowRef<Point[]>([])
  const outbox = useOutbox()
  let stop: (() => void) | undefined

  function take(next: Frame) {
    away.value = false
    if (frame.value?.flight === next.flight && next.last_seq < frame.value.last_seq) return // an older frame came late
    if (frame.value && frame.value.flight !== next.flight) trace.value = []
    frame.value = next
    if (next.rpm === null) return
    const egts = Object.values(next.egt_f)
    const egt = egts.length ? egts.reduce((a, b) => a + b, 0) / egts.length : null
    const last = trace.value.at(-1)
    if (last && next.at_s <= last.t) return
    trace.value = [...trace.value.filter((p) => p.t > next.at_s - TRACE_S), { t: next.at_s, rpm: next.rpm, egt }]
  }

  outbox.showFramesTo(take)

  async function open() {
    const { frame: first } = await get<{ frame: Frame | null }>('/api/live')
    if (first) {
      take(first)
      const curve = await get<{ time_s: number[]; rpm: number[]; egt_f: number[] }>('/api/live/curve')
      trace.value = curve.time_s.map((t, i) => ({ t, rpm: curve.rpm[i]!, egt: curve.egt_f[i] ?? null }))
    }
    stop ??= listenToFrames(take, () => (away.value = true))
  }

  function close() {
    stop?.()
    stop = undefined
  }

  const path = computed(() => `/api/flights/${frame.value?.flight}`)
  const event = (kind: string, body: Record<string, unknown> = {}) =>
    outbox.send(`${path.value}/events`, { id: newId(), kind, body })

  /** Confirm the current item, with the reading that was on the screen when the pilot said so. */
  const confirm = () => {
    const item = frame.value?.item
    if (!item) return
    return event('item_done', item.shown === null ? { item: item.id } : { item: item.id, shown: item.shown })
  }
  const enter = (phase: string) => event('phase_entered', { phase })
  const undo = () => outbox.send(`${path.value}/undo`, { id: newId() })
  const lever = (levers: Record<string, number | string | boolean>) => outbox.send('/api/live/levers', { levers })
  const act = (action = 'prime_strokes') => outbox.send('/api/live/prime', { id: newId(), strokes: 1, action })
  const speed = (value: number) => outbox.send('/api/live/speed', { speed: value })

  const fact = (name: string, value: string | number | boolean) => event('fact', { name, value })
  const aside = (item: string, how: string, reason: string) => event('item_set_aside', { item, how, reason })

  return { fact, aside, frame, away, trace, open, close, take, event, confirm, enter, undo, lever, act, speed }
})

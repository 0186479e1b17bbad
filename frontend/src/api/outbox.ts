import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { answer, api, newId, Problem } from './client'
import { openBoxes, type Letter, type PostedEvent, type Refusal, type Row } from './letters'
import type { Frame } from './schema'

const LOOKS_EVERY_MS = 250
const FIRST_PAUSE_MS = 500
const LONGEST_PAUSE_MS = 8000
/** What means something more each time that it is said. */
const SAID_AGAIN: PostedEvent['kind'][] = ['counted', 'start_tap', 'timer_started']

/** Run alone among all tabs of this browser; where it has no locks, alone in this one by `isSending`. */
async function alone(work: () => Promise<boolean>): Promise<boolean> {
  return navigator.locks ? navigator.locks.request('outbox', work) : work()
}

const post = ({ way, flight, body }: Letter): Promise<{ frame?: Frame | null }> => {
  const params = { path: { flight_id: flight } }
  return way === 'undo'
    ? answer(api.POST('/api/flights/{flight_id}/undo', { params, body }))
    : answer(api.POST('/api/flights/{flight_id}/events', { params, body }))
}

/** What a letter is about: two of one sense say the same. */
function senseOf(letter: Letter): string {
  if (letter.way === 'undo') return `undo ${letter.body.event ?? letter.body.id}`
  const { id, kind, body } = letter.body
  if (SAID_AGAIN.includes(kind)) return id
  return `${letter.flight} ${kind} ${body && 'item' in body ? String(body.item) : JSON.stringify(body ?? {})}`
}

/** What the pilot said goes to the server in order; while the server is away, or does not take it, it waits here, through a reload
 * too. Only what the server truly refuses leaves the row, and stays listed until it is dismissed. Of several tabs one delivers.
 * Levers never come here: what a hand did a minute ago is not done again. */
export const useOutbox = defineStore('outbox', () => {
  const waiting = ref(0)
  const refused = shallowRef<Row<Refusal>[]>([])
  const boxes = openBoxes()
  let onFrame: (frame: Frame) => void = () => undefined
  let turn: Promise<void> = Promise.resolve()
  let isSending = false
  let pauseMs = 0
  let notBefore = 0

  async function look() {
    const { letters, refused: not } = await boxes
    waiting.value = (await letters.all()).length
    refused.value = await not.all()
  }

  /** Put in the row what `make` makes of those that wait there, one after the other: two quick taps see each other. */
  async function put(make: (waiting: Letter[]) => Letter | undefined) {
    const added = turn.then(async () => {
      const { letters } = await boxes
      const rows = (await letters.all()).map((row) => row.value)
      const letter = make(rows)
      if (letter && !rows.some((one) => senseOf(one) === senseOf(letter))) await letters.add(letter)
    })
    turn = added.catch(() => undefined)
    await added
    await look()
    await flush()
  }

  const send = (letter: Letter) => put(() => letter)

  /** Take back what is seen last: what still waits here, else the newest of what the screen offers. */
  const takeBack = (flight: string, seen: readonly string[]) =>
    put((rows) => {
      const taken = new Set(rows.flatMap((one) => (one.way === 'undo' ? [one.body.event] : [])))
      const waits = rows.flatMap((one) => (one.way === 'event' ? [one.body.id] : [])).reverse()
      const event = [...waits, ...seen].find((id) => !taken.has(id))
      return event ? { way: 'undo', flight, body: { id: newId(), event } } : undefined
    })

  /** Deliver in order; return whether all went out. */
  async function deliver(): Promise<boolean> {
    const { letters, refused: not } = await boxes
    for (let [row] = await letters.all(); row; [row] = await letters.all()) {
      try {
        const { frame } = await post(row.value)
        if (frame) onFrame(frame) // shown at once, not at the next frame of the stream
      } catch (error) {
        if (!(error instanceof Problem) || !error.isRefusal) return false
        await not.add({ letter: row.value, why: error.message })
      }
      await letters.remove(row.key)
      await look()
    }
    return true
  }

  /** Deliver all that waits; what is added meanwhile goes with it. After a failure the next try waits a little, ever longer. */
  async function flush() {
    if (isSending) return
    isSending = true
    try {
      const isOut = await alone(deliver)
      pauseMs = isOut ? 0 : Math.min(Math.max(pauseMs * 2, FIRST_PAUSE_MS), LONGEST_PAUSE_MS)
      notBefore = Date.now() + pauseMs
      await look()
    } finally {
      isSending = false
    }
    if (waiting.value && !pauseMs) await flush() // came in while the door was closing
  }

  async function dismiss(key: number) {
    await (await boxes).refused.remove(key)
    await look()
  }

  /** Try again now: the server was heard again. */
  function hurry() {
    notBefore = 0
  }

  setInterval(() => void (waiting.value && Date.now() >= notBefore && flush()), LOOKS_EVERY_MS)
  void look().then(() => (waiting.value ? flush() : undefined)) // what an earlier page left
  /** Where the frames go that come back with an answer. */
  const showFramesTo = (show: (frame: Frame) => void) => (onFrame = show)

  return { waiting, refused, send, takeBack, flush, dismiss, hurry, showFramesTo }
})

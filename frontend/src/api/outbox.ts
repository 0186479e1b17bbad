import { defineStore } from 'pinia'
import { ref } from 'vue'
import { answer, api, AWAY, Problem } from './client'
import { openLetterBox, type Letter } from './letters'
import type { Frame } from './schema'

const TRY_AGAIN_MS = 1500
const LATER = [AWAY, 'busy']

/** Run alone among all tabs of this browser; where it has no locks, alone in this one by `isSending`. */
async function alone(work: () => Promise<void>) {
  await (navigator.locks ? navigator.locks.request('outbox', work) : work())
}

const post = ({ way, flight, body }: Letter): Promise<{ frame?: Frame | null }> => {
  const params = { path: { flight_id: flight } }
  return way === 'undo'
    ? answer(api.POST('/api/flights/{flight_id}/undo', { params, body }))
    : answer(api.POST('/api/flights/{flight_id}/events', { params, body }))
}

/** What the pilot said goes to the server in order; while the server is away it waits here, through a reload too. Of several
 * tabs one delivers. Levers never come here: what a hand did a minute ago is not done again. */
export const useOutbox = defineStore('outbox', () => {
  const waiting = ref(0)
  const refused = ref<string>()
  const box = openLetterBox()
  let onFrame: (frame: Frame) => void = () => undefined
  let isSending = false

  async function send(letter: Letter) {
    const letters = await box
    await letters.add(letter)
    waiting.value = await letters.count()
    await flush()
  }

  async function deliver() {
    const letters = await box
    for (let row = await letters.first(); row; row = await letters.first()) {
      try {
        const { frame } = await post(row.letter)
        if (frame) onFrame(frame) // shown at once, not at the next frame of the stream
        refused.value = undefined
      } catch (error) {
        if (error instanceof Problem && LATER.includes(error.code)) return
        refused.value = (error as Error).message
      }
      await letters.remove(row.key)
      waiting.value = await letters.count()
    }
  }

  /** Deliver all that waits. What is added meanwhile goes with it, or with the next try. */
  async function flush() {
    if (isSending) return
    isSending = true
    try {
      await alone(deliver)
      waiting.value = await (await box).count()
    } finally {
      isSending = false
    }
  }

  setInterval(() => void (waiting.value && flush()), TRY_AGAIN_MS)
  void box.then(async (letters) => {
    waiting.value = await letters.count() // what an earlier page left
    if (waiting.value) await flush()
  })
  /** Where the frames go that come back with an answer. */
  const showFramesTo = (show: (frame: Frame) => void) => (onFrame = show)

  return { waiting, refused, send, flush, showFramesTo }
})

import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { AWAY, post, Problem } from './client'
import type { Frame } from '@/api/schema'

interface Letter {
  path: string
  body: Record<string, unknown>
}

/** A new id for something that arises here. */
export const newId = () => crypto.randomUUID()

/** What the pilot did goes to the server in order; while the server is away it waits here, through a reload too. */
export const useOutbox = defineStore('outbox', () => {
  const waiting = useLocalStorage<Letter[]>('outbox', [])
  const refused = ref<string>()
  let onFrame: (frame: Frame) => void = () => undefined
  let sending = false

  async function send(path: string, body: Record<string, unknown>) {
    waiting.value.push({ path, body })
    await flush()
  }

  async function flush() {
    if (sending) return
    sending = true
    try {
      while (waiting.value.length) {
        const letter = waiting.value[0]!
        try {
          const answer = await post<{ frame?: Frame }>(letter.path, letter.body)
          if (answer.frame) onFrame(answer.frame) // shown at once, not at the next frame of the stream
          refused.value = undefined
        } catch (error) {
          if (error instanceof Problem && error.code === AWAY) return
          refused.value = (error as Error).message
        }
        waiting.value.shift()
      }
    } finally {
      sending = false
    }
  }

  setInterval(() => waiting.value.length && flush(), 1500)
  /** Where the frames go that come back with an answer. */
  const showFramesTo = (show: (frame: Frame) => void) => (onFrame = show)

  return { waiting, refused, send, flush, showFramesTo }
})

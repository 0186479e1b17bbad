import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { AWAY, post, Problem } from '@/api/client'

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
          await post(letter.path, letter.body)
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
  return { waiting, refused, send, flush }
})

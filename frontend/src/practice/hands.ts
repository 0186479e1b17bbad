import { defineStore } from 'pinia'
import { ref } from 'vue'
import { answer, api, newId } from '@/api/client'

export type Levers = Record<string, number | string | boolean>

/** Hands on the simulated engine. What cannot be done now is not done later: a lever waits for nothing but the one before it,
 * and of several moves of one lever the newest counts. */
export const useHands = defineStore('hands', () => {
  const problem = ref('')
  let pending: Levers = {}
  let isMoving = false

  async function move(levers: Levers) {
    pending = { ...pending, ...levers }
    if (isMoving) return
    isMoving = true
    try {
      while (Object.keys(pending).length) {
        const now = pending
        pending = {}
        await answer(api.POST('/api/live/levers', { body: { levers: now } }))
      }
      problem.value = ''
    } catch (error) {
      pending = {}
      problem.value = (error as Error).message
    } finally {
      isMoving = false
    }
  }

  async function once(request: Promise<unknown>) {
    try {
      await request
      problem.value = ''
    } catch (error) {
      problem.value = (error as Error).message
    }
  }
  const act = (action = 'prime_strokes') =>
    once(answer(api.POST('/api/live/prime', { body: { id: newId(), strokes: 1, action } })))
  const speed = (value: number) => once(answer(api.POST('/api/live/speed', { body: { speed: value } })))

  return { problem, move, act, speed }
})

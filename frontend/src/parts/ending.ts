import { defineStore } from 'pinia'
import { ref } from 'vue'
import { answer, api, newId } from '@/api/client'

const MAY_BE_TAKEN_BACK_MS = 10_000

/** A flight that was ended or discarded a moment ago: it can be taken back for ten seconds. */
export const useEnding = defineStore('ending', () => {
  const ended = ref<{ flight: string; event: string; words: string; isDiscarded: boolean }>()
  const problem = ref('')
  let timer: ReturnType<typeof setTimeout> | undefined

  async function told(work: () => Promise<void>) {
    problem.value = ''
    try {
      await work()
    } catch (error) {
      problem.value = (error as Error).message
    }
  }

  const hide = (flight: string, hidden: boolean) =>
    answer(api.POST('/api/flights/{flight_id}/hidden', { params: { path: { flight_id: flight } }, body: { hidden } }))

  /** End a flight; discarded, it is hidden from the records as well. */
  const end = (flight: string, registration: string, isDiscarded: boolean) =>
    told(async () => {
      const event = newId()
      const params = { path: { flight_id: flight } }
      await answer(
        api.POST('/api/flights/{flight_id}/events', { params, body: { id: event, kind: 'flight_ended', body: {} } }),
      )
      if (isDiscarded) await hide(flight, true)
      const words = `${registration}: the flight is ${isDiscarded ? 'discarded' : 'ended'}.`
      ended.value = { flight, event, words, isDiscarded }
      clearTimeout(timer)
      timer = setTimeout(() => (ended.value = undefined), MAY_BE_TAKEN_BACK_MS)
    })

  /** Take it back: the flight goes on. */
  const takeBack = () =>
    told(async () => {
      const last = ended.value
      if (!last) return
      if (last.isDiscarded) await hide(last.flight, false)
      const params = { path: { flight_id: last.flight } }
      await answer(api.POST('/api/flights/{flight_id}/undo', { params, body: { id: newId(), event: last.event } }))
      ended.value = undefined
    })

  return { ended, problem, end, takeBack }
})

import { onMounted, ref, shallowRef } from 'vue'

/** What a request answers: asked for when the page opens and again with `ask`; what went wrong, in words. Of two requests
 * on their way only the newer one counts. */
export function useAnswer<T>(request: () => Promise<T>) {
  const answer = shallowRef<T>()
  const problem = ref('')
  const isAsking = ref(false)
  let asks = 0

  async function ask() {
    const mine = ++asks
    isAsking.value = true
    try {
      const said = await request()
      if (mine !== asks) return
      answer.value = said
      problem.value = ''
    } catch (error) {
      if (mine === asks) problem.value = (error as Error).message
    } finally {
      if (mine === asks) isAsking.value = false
    }
  }

  onMounted(ask)
  return { answer, problem, isAsking, ask }
}

/** Something that is sent when the pilot says so: what went wrong, in words, and whether it is on its way. */
export function useSending<A extends unknown[]>(send: (...given: A) => Promise<void>) {
  const problem = ref('')
  const isSending = ref(false)

  async function go(...given: A) {
    isSending.value = true
    problem.value = ''
    try {
      await send(...given)
    } catch (error) {
      problem.value = (error as Error).message
    } finally {
      isSending.value = false
    }
  }

  return { problem, isSending, go }
}

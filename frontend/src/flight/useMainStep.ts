import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Frame, ShownList } from '@/api/schema'
import { useFlight } from './flight'

const WORDS: Record<Frame['step']['does'], string> = {
  stopped: 'Check again',
  stop_stands: 'STOP stands',
  resume: 'Go on',
  flow: 'Flow done',
  by_heart: 'All done',
  answer: 'Answered',
  item: 'Done',
  put_back: 'Put back first',
  next_phase: '',
  end: 'End flight',
  record: 'Record',
}

/** What the one main button says and sends, and the list that is worked on; what it does is decided in Python. */
export function useMainStep() {
  const flight = useFlight()
  const router = useRouter()
  const does = computed(() => flight.frame?.step.does ?? 'record')
  const list = computed<ShownList | null>(
    () => flight.frame?.lists.find((one) => one.id === flight.frame?.step.list) ?? null,
  )
  const word = computed(() => flight.frame?.step.say || WORDS[does.value] || flight.frame?.next_phase?.title || '')

  async function forward() {
    const now = flight.frame
    if (!now) return
    switch (does.value) {
      case 'resume':
        return void flight.event('resumed', {})
      case 'stopped':
        return void flight.event('check_again', { item: now.item!.id })
      case 'flow':
        return void flight.event('flow_done', { list: now.step.list ?? '' })
      case 'by_heart':
        return void flight.event('list_done', { list: now.step.list ?? '' })
      case 'item':
      case 'answer':
        return void flight.confirm()
      case 'put_back':
        return
      case 'stop_stands':
        return void (now.step.to && flight.enter(now.step.to))
      case 'next_phase':
        return void flight.enter(now.next_phase!.id)
      case 'end':
        await flight.event('flight_ended', {})
    }
    await router.push(`/records/${now.flight}`)
  }

  return { list, does, word, forward }
}

import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Checklist } from '@/api/types'
import { useFlight } from '@/stores/flight'

/** What the one main button says and does: resume, sweep, confirm, next phase, end; and the list it works on. */
export function useMainStep() {
  const flight = useFlight()
  const router = useRouter()
  const list = computed<Checklist | null>(() => {
    const lists = flight.frame?.lists ?? []
    const current = lists.find((one) => one.items.some((line) => line.id === flight.frame?.item?.id))
    return current ?? lists.find((one) => one.missing.length) ?? lists.at(-1) ?? null
  })
  const flowing = computed(() => {
    const one = list.value
    return !!flight.frame?.item && !!one && one.style === 'flow_verify' && one.flow.length > 0 && !one.flow_done
  })
  /** A short list for the air, said by heart and confirmed with one tap; killer items have their own. */
  const byHeart = computed(() => {
    const one = list.value
    const item = flight.frame?.item
    return !!item && !item.killer && !item.again && !!one?.memory && one.style === 'read_do'
  })
  const keeping = computed(() => flight.frame?.put_backs.filter((p) => p.keeps_open) ?? [])
  const word = computed(() => {
    const now = flight.frame
    if (!now || now.ended) return 'Record'
    if (now.paused) return 'Go on'
    if (flowing.value) return 'Flow done'
    if (byHeart.value) return 'All done'
    if (now.item) return list.value?.style === 'two' ? 'Answered' : 'Done'
    if (keeping.value.length) return 'Put back first'
    return now.next_phase ? now.next_phase.title : 'End flight'
  })

  async function forward() {
    const now = flight.frame
    if (!now) return
    if (now.ended) return void router.push(`/records/${now.flight}`)
    if (now.paused) return void flight.event('resumed')
    if (flowing.value) return void flight.event('flow_done', { list: list.value!.id })
    if (byHeart.value) return void flight.event('list_done', { list: list.value!.id })
    if (now.item) return void flight.confirm()
    if (keeping.value.length) return
    if (now.next_phase) return void flight.enter(now.next_phase.id)
    await flight.event('flight_ended')
    await router.push(`/records/${now.flight}`)
  }

  return { list, flowing, byHeart, keeping, word, forward }
}

import { computed, type Ref } from 'vue'
import { useFlight } from '@/stores/flight'

const TRACED = [
  'mag_check',
  'carb_heat_check',
  'idle_check',
  'prop_cycle',
  'feather_check',
  'alternator_check',
  'mixture_check',
  'freewheel_check',
]

/** Which panels the flight screen shows at this moment. `isTyping`: figures are typed by hand where a trace would stand. */
export function usePanels(isTyping: Ref<boolean>) {
  const flight = useFlight()
  const frame = computed(() => flight.frame)
  const item = computed(() => frame.value?.item ?? null)
  const hasWorking = computed(
    () =>
      (frame.value?.feed === 'bench' || frame.value?.feed === 'device') &&
      (item.value?.watch === 'lean' || TRACED.includes(item.value?.check ?? '')),
  )
  /** What needs the list's room: the weather's fields, the briefing, a number pad. */
  const isTall = computed(
    () =>
      ['weather', 'briefing'].includes(item.value?.watch ?? '') ||
      !!frame.value?.working.take_off ||
      !!item.value?.measure ||
      (!!item.value?.manual && (isTyping.value || !item.value.finding)),
  )
  /** What needs both hands: shown alone, very large; the list waits below the fold until it is over. */
  const large = computed(() => frame.value?.start.large ?? null)
  /** The run-up's card stands where the list was, once nothing of it is left. */
  const summed = computed(() => !item.value && !!frame.value?.run_up)
  /** Percent of power matters in the air, and wherever a rating runs on its clock. */
  const powered = computed(
    () =>
      !!frame.value?.power?.clock ||
      !['before_start', 'start', 'warm_up', 'taxi', 'run_up', 'after_landing', 'shutdown'].includes(
        frame.value?.phase ?? '',
      ),
  )
  /** Tanks are at hand in the air, where the list is short, and at an item that speaks of them. */
  const fuels = computed(
    () => ['climb', 'cruise', 'descent'].includes(frame.value?.phase ?? '') && item.value?.watch !== 'lean',
  )
  /** While the mixture is being set only what is urgent is said beside it. */
  const airLines = computed(() =>
    (frame.value?.working.lines ?? []).filter(
      (l) => item.value?.watch !== 'lean' || (l.kind === 'look' && ['head', 'turbine'].includes(l.id)),
    ),
  )
  /** The burn-off belongs to the magnetos, and to what comes after them while they are not right. */
  const burns = computed(() => !!frame.value?.run_up)
  const starting = computed(() => ['before_start', 'start'].includes(frame.value?.phase ?? ''))
  const chtF = computed(() => {
    const head = item.value?.engine === 2 ? 'e2_cht_max_f' : 'cht_max_f'
    return frame.value?.instruments.find((i) => i.id === head)?.value ?? null
  })
  return { hasWorking, isTall, large, summed, powered, fuels, airLines, burns, starting, chtF }
}

import { computed } from 'vue'
import { useFlight } from './flight'

/** Which parts of the flight screen show at this moment; which, is decided in Python. */
export function usePanels() {
  const flight = useFlight()
  const shows = computed(() => flight.frame?.panels)
  /** What needs both hands: shown alone, very large; the list waits below the fold until it is over. */
  const large = computed(() => flight.frame?.start.large ?? null)
  const hottestF = computed(() => flight.frame?.instruments.find((i) => i.id === shows.value?.hottest)?.value ?? null)
  return { shows, large, hottestF }
}

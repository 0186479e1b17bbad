import { watch, type Ref } from 'vue'
import { useDisplay } from './display'

/** What is typed stays what was meant: when the units are switched, the figures in the fields are put into the new ones. `units` is the
 * core unit of each field. */
export function useTypedUnits(typed: Ref<Record<string, string>>, units: Record<string, string>) {
  const display = useDisplay()
  let meant: Record<string, number> = {}
  const remember = () => {
    const known = Object.entries(units).map(([name, unit]) => [name, typed.value[name]?.trim(), unit] as const)
    meant = Object.fromEntries(
      known
        .filter(([, text]) => text)
        .map(([name, text, unit]) => [name, display.toCore(Number(text!.replace(',', '.')), unit)]),
    )
  }
  watch(typed, remember, { deep: true, immediate: true, flush: 'sync' })
  watch(
    () => display.chosen,
    (_, before) => {
      if (!before) return // the units came only now: what is typed was not meant in others
      const shown = Object.entries(meant)
        .filter(([, value]) => Number.isFinite(value))
        .map(([name, value]) => [name, String(Math.round(display.number(value, units[name]!) * 100) / 100)])
      typed.value = { ...typed.value, ...Object.fromEntries(shown) }
    },
    { flush: 'sync' },
  )
}

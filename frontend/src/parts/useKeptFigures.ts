import { useLocalStorage } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useDisplay } from './display'

const parsed = (text: string | undefined) => (text?.trim() ? Number(text.replace(',', '.')) : NaN)

/** Figures that are typed in the unit on display and kept over visits in the core's: a switch of units never changes what was meant.
 * `unitOf` gives the core unit of a field, empty where it has none. */
export function useKeptFigures(key: string, unitOf: (name: string) => string) {
  const display = useDisplay()
  const meant = useLocalStorage<Record<string, number>>(key, {})
  const typed = ref<Record<string, string>>({})
  let isShowing = false

  const inCore = (name: string) => display.toCore(parsed(typed.value[name]), unitOf(name))
  function show() {
    const shown = Object.entries(meant.value).map(([name, value]) => {
      return [name, String(Math.round(display.number(value, unitOf(name)) * 100) / 100)]
    })
    const others = Object.entries(typed.value).filter(([name]) => !(name in meant.value)) // half a figure stays as typed
    isShowing = true
    typed.value = { ...Object.fromEntries(others), ...Object.fromEntries(shown) }
    isShowing = false
  }
  watch(
    typed,
    () => {
      if (isShowing) return
      const figures = Object.keys(typed.value).map((name) => [name, inCore(name)] as const)
      meant.value = Object.fromEntries(figures.filter(([, value]) => Number.isFinite(value)))
    },
    { deep: true, flush: 'sync' },
  )
  watch(() => display.chosen, show, { immediate: true, flush: 'sync' })

  /** What a field says in the core's unit: undefined where it is empty, NaN where it cannot be read. */
  function figure(name: string): number | undefined {
    if (!typed.value[name]?.trim()) return undefined
    return Number.isFinite(inCore(name)) ? (meant.value[name] ?? NaN) : NaN
  }
  return { typed, figure }
}

import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef, watchEffect } from 'vue'
import { answer, api } from '@/api/client'
import type { AircraftUnits, Tachometer, Units } from '@/api/schema'

/** A choice of the server's table: `us`, `metric`, and what only some families have. */
type System = string

/** A figure's thousands apart, as they are read: 1,800; nothing has no sign. */
const grouped = (figure: string) =>
  figure.replace(/^-(?=0(\.0*)?$)/, '').replace(/\B(?=(\d{3})+(?!\d))(?<!\.\d*)/g, ',')

/** How figures and pages look: units, day or night, which hand. The conversion table comes from the server. */
export const useDisplay = defineStore('display', () => {
  /** As the aircraft's own gauges, one system for all, or the own choice of each family, which stays kept meanwhile. */
  const units = useLocalStorage<'aircraft' | 'us' | 'metric' | 'own'>('units', 'aircraft')
  const choices = useLocalStorage<Record<string, System>>('unit_choices', {})
  const look = useLocalStorage<'day' | 'night'>('look', 'day')
  const hand = useLocalStorage<'right' | 'left'>('hand', 'right')
  const sound = useLocalStorage('sound', false)
  const table = shallowRef<Units['displays']>({})
  const families = shallowRef<Units['families']>([])
  /** In which units the gauges of the aircraft on show are marked. */
  const aircraft = shallowRef<AircraftUnits | null>(null)
  /** How the aircraft on show has its speed, where not in RPM. */
  const tachometer = shallowRef<Tachometer | null>(null)

  watchEffect(() => {
    document.documentElement.dataset.look = look.value
    document.documentElement.classList.toggle('dark', look.value === 'night')
  })

  async function load() {
    const known = await answer(api.GET('/api/units'))
    table.value = known.displays
    families.value = known.families
  }

  function choiceOf(family: string): System {
    if (units.value === 'own') return choices.value[family] ?? 'us'
    if (units.value === 'aircraft') return aircraft.value?.families[family] ?? 'us'
    return units.value
  }
  function choose(family: string, system: System) {
    const all = families.value.map((one) => [one.name, choiceOf(one.name)])
    choices.value = { ...Object.fromEntries(all), [family]: system }
    units.value = 'own'
  }
  /** One tap for all: as the aircraft has it, the one system, the other, and the own choice where one was made. */
  function switchUnits() {
    const hasOwn = Object.keys(choices.value).length > 0
    const next = { aircraft: 'metric', metric: 'us', us: hasOwn ? 'own' : 'aircraft', own: 'aircraft' } as const
    units.value = next[units.value]
  }
  function systemOf(unit: string): System {
    const family = families.value.find((one) => one.units.includes(unit))
    return family ? choiceOf(family.name) : 'us'
  }
  /** What is chosen, in one line: a unit of each family. */
  const chosen = computed(() => families.value.map((one) => label(one.units[0])).join(' '))

  function row(unit: string | null | undefined) {
    if (unit === 'rpm' && tachometer.value) return { ...tachometer.value, shift: 0 }
    const [own, gauge] = (unit ?? '').split('@') as [string, string?] // a gauge may have marks of its own: `f@oil_t_f`
    const marks = gauge && units.value === 'aircraft' ? aircraft.value?.gauges[gauge] : undefined
    return own ? (table.value[own]?.[marks ?? systemOf(own)] ?? table.value[own]?.us) : undefined
  }

  /** A core figure in the unit on display as a hand would type it. */
  function typed(value: number, unit: string | null | undefined): string {
    const display = row(unit)
    if (!display) return String(Math.round(value * 100) / 100)
    return (value * display.scale + display.shift).toFixed(display.decimals).replace(/^-(0(\.0+)?)$/, '$1')
  }

  /** A core figure as text in the unit on display, without the unit. */
  function figure(value: number | null | undefined, unit: string | null | undefined): string {
    return value === null || value === undefined ? '–' : grouped(typed(value, unit))
  }

  /** A core figure in the unit on display, not rounded: for drawing. */
  function number(value: number, unit: string): number {
    const display = row(unit)
    return value * (display?.scale ?? 1) + (display?.shift ?? 0)
  }

  /** A difference of core figures: the scale alone; with so many decimals more than its unit has. */
  function difference(value: number | null | undefined, unit: string, more = 0): string {
    if (value === null || value === undefined) return '–'
    const display = row(unit)
    return grouped((value * (display?.scale ?? 1)).toFixed((display?.decimals ?? 0) + more))
  }

  /** A sentence of the core, its figures (`{410|f}`, a difference `{~20|f}`) in the unit on display; those of the unit of a gauge
   * that it is about as that gauge is marked. */
  function sentence(text: string, about?: string | null): string {
    return text.replace(
      /\{(~?)([+-]?[0-9.]+)\|([a-z]+)(\+?)\}/g,
      (_, apart: string, value: string, own: string, finer) => {
        const unit = about?.split('@')[0] === own ? about : own
        const shown = apart ? difference(Number(value), unit, finer.length) : figure(Number(value), unit)
        return `${value.startsWith('+') ? '+' : ''}${shown} ${label(unit)}`
      },
    )
  }

  /** A core figure with its unit. */
  const withUnit = (value: number | null | undefined, unit: string) => `${figure(value, unit)} ${label(unit)}`.trim()

  /** A figure typed in the unit on display, as a core figure. */
  function toCore(value: number, unit: string): number {
    const display = row(unit)
    return (value - (display?.shift ?? 0)) / (display?.scale ?? 1)
  }

  const label = (unit: string | null | undefined) => row(unit)?.label ?? ''

  /** In which units a figure is printed: each choice with its label, the same label once. */
  function choicesOf(unit: string): { id: string; label: string }[] {
    const rows = Object.entries(table.value[unit] ?? {}).map(([id, one]) => ({ id, label: one.label }))
    return rows.filter((one, at) => rows.findIndex((other) => other.label === one.label) === at)
  }
  /** A core figure as it is typed in one choice of its unit. */
  function typedIn(value: number, unit: string, choice: string): string {
    const one = table.value[unit]?.[choice]
    return one ? (value * one.scale + one.shift).toFixed(one.decimals) : String(Math.round(value * 100) / 100)
  }

  const labelIn = (unit: string, system: System) => table.value[unit]?.[system]?.label ?? ''

  return {
    aircraft,
    tachometer,
    families,
    units,
    choiceOf,
    choose,
    switchUnits,
    chosen,
    look,
    hand,
    sound,
    load,
    typed,
    figure,
    number,
    difference,
    sentence,
    withUnit,
    toCore,
    label,
    choicesOf,
    typedIn,
    labelIn,
  }
})

import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { shallowRef, watchEffect } from 'vue'
import { answer, api } from '@/api/client'
import type { Tachometer, Units } from '@/api/schema'

/** How figures and pages look: units, day or night, which hand. The conversion table comes from the server. */
export const useDisplay = defineStore('display', () => {
  const units = useLocalStorage<'us' | 'metric'>('units', 'us')
  const look = useLocalStorage<'day' | 'night'>('look', 'day')
  const hand = useLocalStorage<'right' | 'left'>('hand', 'right')
  const sound = useLocalStorage('sound', false)
  const table = shallowRef<Units['displays']>({})
  /** How the aircraft on show has its speed, where not in RPM. */
  const tachometer = shallowRef<Tachometer | null>(null)

  watchEffect(() => {
    document.documentElement.dataset.look = look.value
    document.documentElement.classList.toggle('dark', look.value === 'night')
  })

  async function load() {
    table.value = (await answer(api.GET('/api/units'))).displays
  }

  function row(unit: string | null | undefined) {
    if (unit === 'rpm' && tachometer.value) return { ...tachometer.value, shift: 0 }
    return unit ? table.value[unit]?.[units.value] : undefined
  }

  /** A core figure as text in the unit on display, without the unit. */
  function figure(value: number | null | undefined, unit: string | null | undefined): string {
    if (value === null || value === undefined) return '–'
    const display = row(unit)
    if (!display) return String(Math.round(value * 100) / 100)
    return (value * display.scale + display.shift).toFixed(display.decimals).replace(/^-(0(\.0+)?)$/, '$1')
  }

  /** A core figure in the unit on display, not rounded: for drawing. */
  function number(value: number, unit: string): number {
    const display = row(unit)
    return value * (display?.scale ?? 1) + (display?.shift ?? 0)
  }

  /** A difference of core figures: the scale alone. */
  function difference(value: number | null | undefined, unit: string): string {
    if (value === null || value === undefined) return '–'
    const display = row(unit)
    return (value * (display?.scale ?? 1)).toFixed(display?.decimals ?? 0)
  }

  /** A sentence of the core, its figures (`{410|f}`, a difference `{~20|f}`) in the unit on display. */
  function sentence(text: string): string {
    return text.replace(/\{(~?)([+-]?[0-9.]+)\|([a-z]+)\}/g, (_, apart: string, value: string, unit: string) => {
      const shown = apart ? difference(Number(value), unit) : figure(Number(value), unit)
      return `${value.startsWith('+') ? '+' : ''}${shown} ${label(unit)}`
    })
  }

  /** A core figure with its unit. */
  const withUnit = (value: number | null | undefined, unit: string) => `${figure(value, unit)} ${label(unit)}`.trim()

  /** A figure typed in the unit on display, as a core figure. */
  function toCore(value: number, unit: string): number {
    const display = row(unit)
    return (value - (display?.shift ?? 0)) / (display?.scale ?? 1)
  }

  const label = (unit: string | null | undefined) => row(unit)?.label ?? ''

  return { tachometer, units, look, hand, sound, load, figure, number, difference, sentence, withUnit, toCore, label }
})

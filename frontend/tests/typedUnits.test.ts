import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { useDisplay } from '@/parts/display'
import { useKeptFigures } from '@/parts/useKeptFigures'
import { useTypedUnits } from '@/parts/useTypedUnits'

const unit = (label: string, scale: number, shift: number) => ({ label, scale, shift, decimals: 0 })
const TABLE = {
  c: { us: unit('°F', 1.8, 32), metric: unit('°C', 1, 0) },
  gal: { us: unit('US gal', 1, 0), metric: unit('L', 3.785, 0) },
}
const FAMILIES = [
  { name: 'temperature', title: 'Temperature', units: ['c'] },
  { name: 'fuel', title: 'Fuel', units: ['gal'] },
]

beforeEach(() => {
  localStorage.clear()
  setActivePinia(createPinia())
  const body = JSON.stringify({ displays: TABLE, families: FAMILIES })
  vi.stubGlobal('fetch', async () => new Response(body, { headers: { 'Content-Type': 'application/json' } }))
})

it('puts typed figures into the units that are switched to, and leaves the rest as typed', async () => {
  const display = useDisplay()
  await display.load()
  const typed = ref<Record<string, string>>({ oat: '50', fuel: '', wind: '12', kept: '9 to' })
  useTypedUnits(typed, { oat: 'c', fuel: 'gal', kept: 'gal' })
  display.units = 'metric'
  expect(typed.value).toEqual({ oat: '10', fuel: '', wind: '12', kept: '9 to' })
  typed.value.fuel = '37.85'
  display.units = 'us'
  expect(typed.value).toEqual({ oat: '50', fuel: '10', wind: '12', kept: '9 to' })
})

it('leaves alone what was typed before the units were known', async () => {
  const display = useDisplay()
  const typed = ref<Record<string, string>>({ oat: '50' })
  useTypedUnits(typed, { oat: 'c' })
  await display.load()
  expect(typed.value.oat).toBe('50')
})

it('keeps what was meant over a switch of units and a later visit', async () => {
  const display = useDisplay()
  await display.load()
  const fields = useKeptFigures('kept', (name) => (name === 'oat' ? 'c' : name === 'people' ? '' : 'gal'))
  fields.typed.value = { oat: '50', fuel: '10', people: '3', other: '' }
  display.units = 'metric'
  expect(fields.typed.value).toEqual({ oat: '10', fuel: '37.85', people: '3', other: '' })
  expect(fields.figure('fuel')).toBe(10) // not 37.85 of another unit, and not what is left of it after rounding
  expect(fields.figure('other')).toBeUndefined()
  fields.typed.value.fuel = '37.9x'
  expect(fields.figure('fuel')).toBeNaN()
  fields.typed.value.fuel = '18,925'
  await nextTick()
  display.units = 'us'
  const later = useKeptFigures('kept', (name) => (name === 'oat' ? 'c' : name === 'people' ? '' : 'gal'))
  expect(later.typed.value).toEqual({ oat: '50', fuel: '5', people: '3' })
})

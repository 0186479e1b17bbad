import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import { useDisplay } from '@/parts/display'

const TABLE = {
  f: {
    us: { label: '°F', scale: 1, shift: 0, decimals: 0 },
    metric: { label: '°C', scale: 1 / 1.8, shift: -32 / 1.8, decimals: 0 },
  },
  inhg: {
    us: { label: 'inHg', scale: 1, shift: 0, decimals: 1 },
    metric: { label: 'hPa', scale: 33.8639, shift: 0, decimals: 0 },
  },
  rpm: {
    us: { label: 'RPM', scale: 1, shift: 0, decimals: 0 },
    metric: { label: 'RPM', scale: 1, shift: 0, decimals: 0 },
  },
}

const FAMILIES = [
  { name: 'temperature', title: 'Temperature', units: ['f'] },
  { name: 'manifold_pressure', title: 'Manifold pressure', units: ['inhg'] },
]

beforeEach(async () => {
  localStorage.clear()
  setActivePinia(createPinia())
  vi.stubGlobal(
    'fetch',
    async () =>
      new Response(JSON.stringify({ displays: TABLE, families: FAMILIES }), {
        headers: { 'Content-Type': 'application/json' },
      }),
  )
  await useDisplay().load()
})

it('shows a figure in the unit on display', () => {
  const display = useDisplay()
  expect(display.withUnit(212, 'f')).toBe('212 °F')
  display.units = 'metric'
  expect(display.withUnit(212, 'f')).toBe('100 °C')
  expect(display.withUnit(29.92, 'inhg')).toBe('1,013 hPa')
})

it.each([
  [999, '999', '999'],
  [1000, '1,000', '1000'],
  [-1234, '-1,234', '-1234'],
  [1234567, '1,234,567', '1234567'],
])('reads the thousands of %d apart, and types them together', (value, read, typed) => {
  const display = useDisplay()
  expect(display.figure(value, 'rpm')).toBe(read)
  expect(display.typed(value, 'rpm')).toBe(typed)
  expect(display.sentence(`{${value}|rpm}`)).toBe(`${read} RPM`)
})

it('leaves what is behind the point as it is', () => {
  expect(useDisplay().figure(12345.6789, null)).toBe('12,345.68')
  expect(useDisplay().difference(1234, 'rpm', 4)).toBe('1,234.0000')
})

it('shows each family of units as it was chosen', () => {
  const display = useDisplay()
  display.choose('temperature', 'metric')
  expect(display.withUnit(212, 'f')).toBe('100 °C')
  expect(display.withUnit(29.92, 'inhg')).toBe('29.9 inHg')
  expect(display.chosen).toBe('°C inHg')
  display.units = 'metric'
  expect(display.chosen).toBe('°C hPa')
  display.units = 'us'
  expect(display.withUnit(212, 'f')).toBe('212 °F')
})

it('keeps the own choice while it switches through the systems', () => {
  const display = useDisplay()
  display.switchUnits()
  display.switchUnits()
  expect(display.units).toBe('us')
  display.choose('temperature', 'metric')
  const shown = [0, 1, 2, 3].map(() => (display.switchUnits(), display.chosen))
  expect(shown).toEqual(['°F inHg', '°C hPa', '°F inHg', '°C inHg'])
})

it('shows what an aircraft has as its own gauges are marked, until the pilot chooses', () => {
  const display = useDisplay()
  display.aircraft = { families: { manifold_pressure: 'metric' }, gauges: { oil_t_f: 'metric' } }
  expect(display.withUnit(212, 'f@oil_t_f')).toBe('100 °C')
  expect(display.withUnit(212, 'f')).toBe('212 °F')
  expect(display.withUnit(29.92, 'inhg')).toBe('1,013 hPa')
  expect(display.toCore(100, 'f@oil_t_f')).toBeCloseTo(212)
  expect(display.sentence('At least {104|f}', 'f@oil_t_f')).toBe('At least 40 °C')
  expect(display.sentence('At least {104|f}', 'psi')).toBe('At least 104 °F')
  display.units = 'us'
  expect(display.withUnit(212, 'f@oil_t_f')).toBe('212 °F')
  expect(display.withUnit(29.92, 'inhg')).toBe('29.9 inHg')
})

it.each([
  [-0.2, 'f', '0'],
  [-0.6, 'f', '-1'],
  [-0.004, 'inhg', '0.0'],
])('gives a difference of nothing no sign', (value, unit, shown) => {
  expect(useDisplay().difference(value, unit)).toBe(shown)
})

it('converts a difference by the scale alone', () => {
  const display = useDisplay()
  display.units = 'metric'
  expect(display.difference(18, 'f')).toBe('10')
  expect(display.sentence('{+~90|f} above {410.00|f}.')).toBe('{+~90|f} above 210 °C.')
  expect(display.sentence('EGT {~+90|f}, at most {400|f}.')).toBe('EGT +50 °C, at most 204 °C.')
})

it('shows no figure as a dash, and never a minus zero', () => {
  const display = useDisplay()
  expect(display.figure(null, 'f')).toBe('–')
  expect(display.figure(-0.2, 'f')).toBe('0')
})

it('shows speed as the tachometer has it', () => {
  const display = useDisplay()
  display.tachometer = { scale: 100 / 2700, decimals: 1, label: '%' }
  expect(display.withUnit(2700, 'rpm')).toBe('100.0 %')
})

it('takes a typed figure back to the unit of the core', () => {
  const display = useDisplay()
  display.units = 'metric'
  expect(display.toCore(100, 'f')).toBeCloseTo(212)
})

import { expect, it } from 'vitest'
import { NOTHING_ASKED, queryOf } from '@/plan/asked'

it('asks for a plan in the core units, whatever the gauges are marked in', () => {
  const inKmhAndLitres = (value: number, unit: string) => ({ kt: value / 1.852, gal: value / 3.785, c: value })[unit]!
  const asked = { ...NOTHING_ASKED, wind_kt: '-18.52', fuel: '37.85', oat_c: '15', palt_ft: '6000' }
  expect(queryOf(asked, inKmhAndLitres)).toEqual({
    pct: '65',
    palt_ft: '6000',
    oat_c: '15',
    wind_kt: '-10',
    fuel_gal: '10',
  })
})

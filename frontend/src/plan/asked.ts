import type { paths } from '@/api/schema'

type Query = NonNullable<paths['/api/aircraft/{profile_id}/plan']['get']['parameters']['query']>

/** What the pilot typed for a plan, as typed. */
export interface Asked {
  pct: string
  palt_ft: string
  oat_c: string
  fuel: string
  wind_kt: string
  target: string
}
export const NOTHING_ASKED: Asked = { pct: '65', palt_ft: '', oat_c: '', fuel: '', wind_kt: '', target: '' }

/** The question for the server: what was typed, in the core's units. A field that is empty is not asked for. */
export function queryOf(asked: Asked, toCore: (value: number, unit: string) => number): Query {
  const inCore = (typed: string, unit: string) => typed && String(Math.round(toCore(Number(typed), unit) * 100) / 100)
  const figures = {
    pct: asked.pct,
    palt_ft: asked.palt_ft,
    oat_c: inCore(asked.oat_c, 'c'),
    wind_kt: inCore(asked.wind_kt, 'kt'),
    fuel_gal: inCore(asked.fuel, 'gal'),
    target: asked.target,
  }
  return Object.fromEntries(Object.entries(figures).filter(([, text]) => text.trim() !== '')) as Query
}

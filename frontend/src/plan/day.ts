import { api, newId } from '@/api/client'

/** What was typed of today for an aircraft: the air as an event tells it, the altitude of the cruise, fuel and people. */
interface Day {
  weather: Record<string, unknown>
  cruise_ft: number | null
  people: number | null
  /** What is in each tank [US gal]. */
  fuel_gal: Record<string, number>
}
const key = (aircraft: string) => `day:${aircraft}`
const today = () => new Date().toISOString().slice(0, 10)

export function keepDay(aircraft: string, day: Day) {
  localStorage.setItem(key(aircraft), JSON.stringify({ ...day, on: today() }))
}

/** What was typed today, if it was. */
export function keptDay(aircraft: string): Day | null {
  const kept = JSON.parse(localStorage.getItem(key(aircraft)) ?? 'null') as (Day & { on: string }) | null
  return kept?.on === today() ? kept : null
}

/** Tell a flight that has begun of the day; what the server refuses stays untold, and the lists ask for it. */
export async function tellDay(aircraft: string, flight: string) {
  const day = keptDay(aircraft)
  if (!day) return
  const params = { path: { flight_id: flight } }
  const tell = (kind: string, body: object) =>
    api.POST('/api/flights/{flight_id}/events', { params, body: { id: newId(), kind, body } as never })
  if (Object.keys(day.weather).length) await tell('weather', { source: 'typed', text: '', ...day.weather })
  if (day.cruise_ft !== null) await tell('fact', { name: 'cruise_ft', value: day.cruise_ft })
  if (day.people) await tell('fact', { name: 'people', value: day.people })
  for (const [tank, gal] of Object.entries(day.fuel_gal ?? {})) await tell('fuel_on_board', { tank, gal })
}

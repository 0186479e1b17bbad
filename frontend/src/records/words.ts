import type { EngineDrops, FlightLine } from '@/api/schema'

/** What a flight was, in words. */
export const KINDS: Record<FlightLine['kind'], string> = {
  practice: 'practice',
  by_hand: 'by hand',
  instrument: 'instrument',
  file: 'file',
  demo: 'demo',
  drill: 'drill',
}
const FORMAT: Intl.DateTimeFormatOptions = {
  year: 'numeric',
  month: 'short',
  day: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  hourCycle: 'h23',
}
/** A moment as day and time of this place. */
export const when = (utc: string) => new Intl.DateTimeFormat('en-GB', FORMAT).format(new Date(utc))
/** How long something took: minutes, or hours and minutes. */
export function length(seconds: number) {
  const minutes = Math.round(seconds / 60)
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')} min`
}
/** Flight time as minutes and seconds. */
export function clock(seconds: number) {
  const whole = Math.round(seconds)
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}
const rounded = (drop: number | null) => (drop === null ? '–' : String(Math.round(drop)))
/** The two drops of each engine: left and right, or in their order where the sides are not known. */
export const dropWords = (drops: EngineDrops[]) =>
  drops
    .map((d) => {
      const whose = d.engine ? `${d.engine}: ` : ''
      const pair = `${rounded(d.first_rpm)} / ${rounded(d.second_rpm)}`
      return d.sides_known ? `${whose}L ${pair.replace('/ ', '/ R ')}` : `${whose}${pair}`
    })
    .join('; ') || '–'

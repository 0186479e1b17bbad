/** What the server says; the shapes of jemmon/core/screen.py and jemmon/api. */
export type Verdict = 'within' | 'look' | 'stop' | 'incomplete' | 'unknown'

export interface Finding {
  kind: string
  verdict: Verdict
  start_s: number
  end_s: number
  measured: Record<string, unknown>
  limits: Record<string, number>
  because: string
  next: string
  source: string
  engine?: number
  typed?: boolean
  event?: string
}

export interface Instrument {
  id: string
  label: string
  unit: string
  value: number | null
  low: number | null
  high: number | null
  state: 'ok' | 'low' | 'high' | 'none'
  came_by_itself?: boolean
}

export interface Item {
  id: string
  challenge: string
  response: string
  why: string
  caution: string | null
  lever: string | null
  check: string | null
  manual: string | null
  watch: string | null
  where: string | null
  mistaken_for: string | null
  killer: boolean
  hold_s: number | null
  held_left_s: number | null
  count_to: number | null
  count_of: string | null
  count: number | null
  engine: number
  engine_name: string | null
  counts: number | null
  measure: Measure | null
  unit: string | null
  shown: number | string | null
  lowest: number | null
  highest: number | null
  as_expected: boolean | null
  finding: Finding | null
  again: string | null
  note: string | null
  only_if: string | null
  from_phase: string | null
}

export interface Measure {
  title: string
  unit: string
  lowest: number | null
  highest: number | null
  value: number | null
  within: boolean | null
}

export type Style = 'read_do' | 'flow_verify' | 'two'

export interface ListLine {
  id: string
  challenge: string
  response: string
  state: 'done' | 'open' | 'deferred' | 'skipped' | 'not_applicable' | 'reopened'
  note: string | null
  age_s: number | null
  shown: number | string | null
  unit: string | null
  by_data: boolean
  killer: boolean
}

export interface Checklist {
  id: string
  title: string
  style: Style
  flow: string[]
  flow_done: boolean
  memory: boolean
  items: ListLine[]
  missing: string[]
}

export interface Air {
  source: string
  text: string
  oat_c: number | null
  dewpoint_c: number | null
  altimeter_inhg: number | null
  wind_from_deg: number | null
  wind_kt: number | null
  gust_kt: number | null
  elevation_ft: number | null
  runway_deg: number | null
  pressure_altitude_ft: number | null
  density_altitude_ft: number | null
  icing: string | null
  headwind_kt: number | null
  crosswind_kt: number | null
  crosswind_from: string | null
  face_deg: number | null
}

export interface PutBack {
  id: string
  title: string
  back: string
  seconds: number
  overdue: boolean
  carried: boolean
  keeps_open: boolean
}

export interface Fuel {
  tanks: { tank: string; feeds: boolean; remaining_gal: number | null; used_gal: number }[]
  asks: string[]
  next: string | null
  due_s: number | null
  balance: string | null
  watch: { left_s: number; low: boolean; say: string } | null
  minutes_left: number | null
  below_reserve: boolean
  reserve_min: number
}

export interface PowerNow {
  by_table_pct: number | null
  by_flow_pct: number | null
  engines: { name: string; pct: number | null }[]
  best_pct: number | null
  disagree: boolean
  say: string
  clock: { name: string; seconds: number; left_s: number } | null
  refused: Record<string, string>
  limit_inhg: number | null
  mixture: { how: string; say: string; wrong: boolean } | null
  wanted: { title: string; steps: string[]; there: boolean; say: string } | null
}

export interface PowerChoice {
  id: string
  title: string
  rpm: number | null
  map_inhg: number | null
}

export interface AirLine {
  id: string
  kind: 'soft' | 'look'
  say: string
}

export interface TakeOffWatch {
  rows: { name: string; value: number; unit: string; low: number | null; high: number | null; ok: boolean | null }[]
  stop: string | null
  settled: boolean
}

export interface Plan {
  aircraft: { id: string; name: string; registration: string }
  targets: { id: string; name: string }[]
  cruise_ft: number | null
  density_altitude_ft: number
  engines: number
  rows: {
    rpm: number
    map_inhg: number
    ff_gph: number
    tas_kt: number | null
    endurance_h: number | null
    range_nm: number | null
    remark: string
  }[]
  refused: string | null
  available: { palt_ft: number[]; lines: { rpm: number; pct: (number | null)[] }[] }
  mixture: { offset_f: number[]; power_pct: number[]; avoid_f: [number, number] | null }
  map_limit: { palt_ft: number[]; lines: { oat_c: number; map_inhg: number[] }[] } | null
  map_limit_inhg: number | null
  tanks: {
    changes: { minutes: number; tank: string; left_gal: number }[]
    reserve_minutes: number
    reserve_min: number
    ff_gph: number
  } | null
  climb: { palt_ft: number; rate_fpm: number; minutes: number; fuel_gal: number; distance_nm: number }[]
}

export interface RunUpSummary {
  grade: 'go' | 'look' | 'stop'
  headline: string
  rows: { kind: string; engine: number | null; verdict: string; because: string; next: string }[]
  open: string[]
  twin: { title: string; left: number; right: number; gap: number; far: boolean }[]
}

export interface BurnOff {
  say: string
  attempt: number
  tries: number
  seconds: number
  needed_s: number
  wanted_rpm: number
  done: boolean
  given_up: boolean
  by_tap: boolean
  running: boolean
}

export interface MagnetoWorking {
  what: string
  unit: string
  side: string
  base_rpm: number
  now_rpm: number
  drop_rpm: number
  settled: boolean
}

export interface LeanWorking {
  flow_gph: number[]
  egt_f: Record<string, number[]>
  peaks: { cylinder: number; egt_f: number; ff_gph: number }[]
  first: number | null
  last: number | null
  spread_gph: number | null
  head_f: number | null
  avoid_gph: [number, number] | null
  margin: { ratio: number; say: string } | null
  target: { id: string; name: string; offset_f: number }
  say: string
  offset_f: number | null
  to_target_f: number | null
  side: string
}

export interface OilClock {
  verdict: 'running' | 'seen' | 'missing'
  elapsed_s: number
  left_s: number
  limit_s: number
  seconds: number | null
}

export interface StartAdvice {
  kind: 'cold' | 'hot' | 'flooded'
  because: string
  attempt: number
  unit: string
  primer: string
  strokes: number
  least: number
  most: number
  book: number
  history: string
  throttle: string
  mixture: string
  pump: string
  cranking: string
  if_not: string
}

export interface StartNow {
  engine: number
  engine_name: string | null
  large: { mode: string; say: string; figure: string; line: string; tone: boolean } | null
  starter: { turned_s: number | null; limit_s: number; over: boolean; rest_left_s: number }
  primed: number
  unit: string
  blades: number
  attempts: number
  taps: { what: string; say: string }[]
  warnings: string[]
}

export interface Control {
  id: string
  name: string
  kind: 'slider' | 'switch' | 'hold' | 'mag' | 'positions'
  shared: boolean
  positions: { name: string; at: number }[]
}

export interface Cockpit {
  engines: { number: number; name: string }[]
  controls: Control[]
  actions: { id: string; name: string }[]
}

export interface StartRow {
  flight: string
  day: string
  engine: number
  metal_c: number | null
  amount: number | null
  attempts: number
  cranking_s: number
  blades: number | null
  volts_v: number | null
  throttle: number | null
  oil_s: number | null
  ran: boolean
}

export interface Starts {
  aircraft: Aircraft
  unit: string
  engines: string[]
  oil_limit_s: number
  rows: StartRow[]
  lines: { metal_c: number; book: number; advised: number }[]
}

export interface Frame {
  advice: StartAdvice | null
  flight: string
  number: number
  last_seq: number
  at_s: number
  phase: string
  phase_title: string
  next_phase: { id: string; title: string } | null
  phases: { id: string; title: string; open: number; of: number }[]
  item: Item | null
  next_item: { challenge: string; response: string } | null
  lists: Checklist[]
  step: {
    does: 'resume' | 'flow' | 'by_heart' | 'answer' | 'item' | 'put_back' | 'next_phase' | 'end' | 'record'
    list: string | null
  }
  paused: boolean
  facts: Record<string, string | number | boolean | null>
  air: Air | null
  briefing: { lines: string[]; read_s: number | null }
  begun: { id: string; title: string } | null
  late: { list: string; title: string; phase: string; unread: boolean; open: string[] }[]
  unproven: string[]
  briefing_due: string | null
  low_rotor: string | null
  meanwhile: { id: string; challenge: string; response: string }[]
  pairs: { id: string; title: string }[]
  feed: 'bench' | 'scripted' | 'device' | null
  registration: string
  instruments: Instrument[]
  put_backs: PutBack[]
  oil_clock: OilClock | null
  start: StartNow
  run_up: RunUpSummary | null
  burn_off: BurnOff | null
  power: PowerNow | null
  fuel: Fuel | null
  power_warnings: string[]
  tachometer: { scale: number; decimals: number; label: string } | null
  gates: { gate: string; title: string; open: boolean; not_met: string[]; minutes: number | null }[]
  engine_runs: boolean
  strokes: number
  half_checks: string[]
  emergency: { title: string; steps: string[] }[]
  lean_targets: { id: string; name: string }[]
  lean_target: string | null
  ended: boolean
  source: 'bench' | 'manual'
  handed_over_ms: number
  stale: boolean
  levers: Record<string, number | string>
  rpm: number | null
  rough: boolean
  egt_f: Record<string, number>
  speed: number
  working: {
    speed?: { near: boolean; say: string } | null
    magneto?: MagnetoWorking | null
    lean?: LeanWorking | null
    take_off?: TakeOffWatch | null
    lines?: AirLine[]
    choices?: PowerChoice[]
    minutes?: number | null
  }
}

export interface Aircraft {
  id: string
  name: string
  registration: string
  about: string
  owner_signed: boolean
  has_bench: boolean
}

export interface FlightLine {
  id: string
  registration: string
  pilot: string
  title: string
  source: string
  started_utc: string
  ended: boolean
  findings: number
  verdict: Verdict | null
  drop_left_rpm: number | null
  drop_right_rpm: number | null
}

/** How one kind of verdict is made. */
export interface Method {
  kind: string
  title: string
  measured: string
  rules: { verdict: Verdict; given_for: string; source: string }[]
  limits: { name: string; title: string; unit: string; value: number; source: string; note: string }[]
}

export interface FlightRecord {
  flight: FlightLine
  aircraft: Aircraft
  sentence: string
  timeline: { seq: number; id: string; kind: string; at_s: number; body: Record<string, unknown>; text: string }[]
  findings: Finding[]
  open: Record<string, number>
}

export interface TracePoints {
  time_s: number[]
  rpm: (number | null)[] | null
  ff_gph: (number | null)[] | null
  egt_f: Record<string, (number | null)[]>
}

export interface Display {
  label: string
  scale: number
  shift: number
  decimals: number
}
export type Displays = Record<string, Record<string, Display>>

export interface ProfileView {
  aircraft: Aircraft
  content_hash: string
  limits: { name: string; title: string; unit: string; value: number; source: string; note: string }[]
  put_backs: { title: string; back: string; due_s: number }[]
  phases: {
    title: string
    lists: {
      title: string
      style: Style
      memory: boolean
      only_if: string[]
      items: {
        id: string
        challenge: string
        response: string
        why: string
        killer: boolean
        where: string | null
        mistaken_for: string | null
        only_if: string[]
      }[]
    }[]
  }[]
  emergency: { title: string; steps: string[] }[]
}

export interface FigureTrend {
  id: string
  title: string
  unit: string
  limit: number | null
  points: { flight: string; day: string; value: number }[]
  level: number | null
  slope_per_flight: number | null
  flights_left: number | null
  jumped: boolean
  message: string | null
  summary: string
}

export interface Trends {
  aircraft: Aircraft
  figures: FigureTrend[]
  health: { engine: number; cylinder: number; moved_pct: number; say: string }[]
}

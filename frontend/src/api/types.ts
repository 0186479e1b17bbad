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
  counts: number | null
  unit: string | null
  shown: number | string | null
  lowest: number | null
  highest: number | null
  as_expected: boolean | null
  finding: Finding | null
}

export interface PutBack {
  id: string
  title: string
  back: string
  seconds: number
  overdue: boolean
}

export interface MagnetoWorking {
  what: string
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

export interface Frame {
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
  done_in_phase: { id: string; challenge: string; at_s: number; age_s: number }[]
  instruments: Instrument[]
  put_backs: PutBack[]
  oil_clock: OilClock | null
  engine_runs: boolean
  strokes: number
  half_checks: string[]
  emergency: { title: string; steps: string[] }[]
  lean_targets: { id: string; name: string }[]
  lean_target: string
  ended: boolean
  source: 'bench' | 'manual'
  handed_over_ms: number
  stale: boolean
  levers: Record<string, number | string>
  rpm: number | null
  rough: boolean
  egt_f: Record<string, number>
  speed: number
  working: { magneto?: MagnetoWorking | null; lean?: LeanWorking | null }
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

const TITLES: Record<string, string> = {
  start: 'Start',
  mag_check: 'Magnetos',
  carb_heat_check: 'Carburettor heat',
  idle_check: 'Idle',
  lean: 'Leaning',
  warm_up: 'Warm-up',
  prop_cycle: 'Propeller',
  feather_check: 'Feathering',
  alternator_check: 'Alternator',
  mixture_check: 'Mixture',
  gauges: 'Gauges',
  run_up_heat: 'Temperature',
  clutch: 'Clutch',
  freewheel_check: 'Freewheel',
  governor_check: 'Governor',
  shutdown_check: 'Idle mixture',
  power_check: 'Full power',
  exceedance: 'Beyond a limit',
}

/** What a pilot calls a kind of finding. */
export const findingTitle = (kind: string): string => TITLES[kind] ?? kind

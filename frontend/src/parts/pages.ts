/** The pages of one aircraft: what follows its own address, and what each is called. */
export const OWN_PAGES = [
  ['', 'Limits'],
  ['/today', 'Today'],
  ['/plan', 'Plan'],
  ['/balance', 'Balance'],
  ['/starts', 'Starts'],
  ['/trends', 'Trends'],
  ['/method', 'Judging'],
  ['/hear', 'By ear'],
  ['/own', 'My items'],
  ['/edit', 'Change'],
  ['/versions', 'Versions'],
  ['/panel', 'Panel'],
] as const

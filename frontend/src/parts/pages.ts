/** The pages of one aircraft: what follows its own address, and what each is called. */
export const OWN_PAGES = [
  ['', 'Limits and lists'],
  ['/today', 'Today'],
  ['/plan', 'Plan'],
  ['/balance', 'Balance'],
  ['/starts', 'Starts'],
  ['/trends', 'Trends'],
  ['/method', 'How it judges'],
  ['/edit', 'Change'],
  ['/versions', 'Versions'],
  ['/panel', 'Panel'],
] as const

/** Whether any of these texts, as they are shown, speaks of what is looked for. */
export function speaksOf(wanted: string, ...texts: (string | null | undefined)[]) {
  return texts.join(' ').toLowerCase().includes(wanted.trim().toLowerCase())
}

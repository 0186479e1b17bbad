/** Minutes as hours and minutes: 95 is 1:35. */
export const clock = (minutes: number) => `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`

/** Hours as hours and minutes; a dash where they are not known. */
export const hours = (h: number | null) => (h === null ? '–' : clock(Math.round(h * 60)))

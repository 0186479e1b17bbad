/** JSON as it is written: values are replaced, never changed, so that an earlier step stays what it was. */
export type Json = string | number | boolean | null | Json[] | JsonObject
export interface JsonObject {
  [name: string]: Json
}

const parts = (path: string) => (path ? path.split('.') : [])

/** The value at a dotted path (`phases.0.title`), or nothing. */
export function read(from: Json, path: string): Json | undefined {
  let here: Json | undefined = from
  for (const part of parts(path)) {
    if (here === null || typeof here !== 'object') return undefined
    here = Array.isArray(here) ? here[Number(part)] : here[part]
  }
  return here
}

/** The same with another value at a path; nothing takes the field away. Objects on the way are made where there are none. */
export function written(from: JsonObject, path: string, value: Json | undefined): JsonObject {
  return put(from, parts(path), value) as JsonObject
}

function put(here: Json | undefined, path: string[], value: Json | undefined): Json | undefined {
  const [part, ...rest] = path
  if (part === undefined) return value
  if (Array.isArray(here)) {
    const rows = [...here]
    const made = put(rows[Number(part)], rest, value)
    if (made === undefined) rows.splice(Number(part), 1)
    else rows[Number(part)] = made
    return rows
  }
  const fields = { ...((here ?? {}) as JsonObject) }
  const made = put(fields[part], rest, value)
  if (made === undefined) delete fields[part]
  else fields[part] = made
  return fields
}

/** A row moved to another place. */
export function moved<T>(rows: T[], from: number, to: number): T[] {
  const made = rows.toSpliced(from, 1)
  made.splice(to, 0, rows[from]!)
  return made
}

/** Every text of a part with what is found in the place of another; ids and the names of signals stay. */
export function replaced(from: Json, find: string, by: string, only: ReadonlySet<string>): Json {
  if (Array.isArray(from)) return from.map((one) => replaced(one, find, by, only))
  if (from === null || typeof from !== 'object') return from
  const fields: JsonObject = {}
  for (const [name, value] of Object.entries(from))
    fields[name] =
      typeof value === 'string'
        ? only.has(name)
          ? value.replaceAll(find, by)
          : value
        : replaced(value, find, by, only)
  return fields
}

/** How often a text is found in the named fields of a part. */
export function counted(from: Json, find: string, only: ReadonlySet<string>): number {
  if (!find || from === null || typeof from !== 'object') return 0
  if (Array.isArray(from)) return from.reduce((sum: number, one) => sum + counted(one, find, only), 0)
  return Object.entries(from).reduce(
    (sum, [name, value]) =>
      sum +
      (typeof value === 'string' ? (only.has(name) ? value.split(find).length - 1 : 0) : counted(value, find, only)),
    0,
  )
}

/** A name that nothing has yet. */
export function free(name: string, taken: ReadonlySet<string>): string {
  const base =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
      .slice(0, 34) || 'item'
  let made = base
  for (let number = 2; taken.has(made); number++) made = `${base}_${number}`
  return made
}

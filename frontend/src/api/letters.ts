import { openDB, type DBSchema } from 'idb'
import type { paths } from './schema'

type Posted<P extends keyof paths> = paths[P] extends {
  post: { requestBody: { content: { 'application/json': infer B } } }
}
  ? B
  : never
export type PostedEvent = Posted<'/api/flights/{flight_id}/events'>
export type BodyOf<K extends PostedEvent['kind']> = Extract<PostedEvent, { kind: K }>['body']

/** Something that the pilot said of a flight and that the server has yet to keep. */
export type Letter =
  | { way: 'event'; flight: string; body: PostedEvent }
  | { way: 'undo'; flight: string; body: Posted<'/api/flights/{flight_id}/undo'> }

/** What the server would not take, and why, in its words. */
export interface Refusal {
  letter: Letter
  why: string
}
export interface Row<T> {
  key: number
  value: T
}

/** Things that wait, oldest first, through a reload too. */
export interface Box<T> {
  add(value: T): Promise<void>
  all(): Promise<Row<T>[]>
  remove(key: number): Promise<void>
}

interface Kept extends DBSchema {
  letters: { key: number; value: Letter }
  refused: { key: number; value: Refusal }
}

export interface Boxes {
  letters: Box<Letter>
  refused: Box<Refusal>
}

/** Return the boxes of this browser; where it keeps none, some that last as long as the page. */
export async function openBoxes(): Promise<Boxes> {
  try {
    const db = await openDB<Kept>('jemmon', 2, {
      upgrade(made, from) {
        if (from < 1) made.createObjectStore('letters', { autoIncrement: true })
        if (from < 2) made.createObjectStore('refused', { autoIncrement: true })
      },
    })
    const box = <S extends 'letters' | 'refused'>(name: S): Box<Kept[S]['value']> => ({
      add: async (value) => void (await db.add(name, value)),
      async all() {
        const rows: Row<Kept[S]['value']>[] = []
        let cursor = await db.transaction(name).store.openCursor()
        for (; cursor; cursor = await cursor.continue())
          rows.push({ key: cursor.primaryKey as number, value: cursor.value })
        return rows
      },
      remove: (key) => db.delete(name, key),
    })
    return { letters: box('letters'), refused: box('refused') }
  } catch {
    return { letters: inMemory(), refused: inMemory() }
  }
}

function inMemory<T>(): Box<T> {
  const kept = new Map<number, T>()
  let last = 0
  return {
    add: async (value) => void kept.set(++last, value),
    all: async () => [...kept].map(([key, value]) => ({ key, value })),
    remove: async (key) => void kept.delete(key),
  }
}

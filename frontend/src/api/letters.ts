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

/** Where letters wait, oldest first, through a reload too. */
export interface LetterBox {
  add(letter: Letter): Promise<void>
  first(): Promise<{ key: number; letter: Letter } | undefined>
  remove(key: number): Promise<void>
  count(): Promise<number>
}

interface Kept extends DBSchema {
  letters: { key: number; value: Letter }
}

/** Return the box of this browser; where it keeps none, one that lasts as long as the page. */
export async function openLetterBox(): Promise<LetterBox> {
  try {
    const db = await openDB<Kept>('jemmon', 1, {
      upgrade: (made) => void made.createObjectStore('letters', { autoIncrement: true }),
    })
    return {
      add: async (letter) => void (await db.add('letters', letter)),
      first: async () => {
        const cursor = await db.transaction('letters').store.openCursor()
        return cursor ? { key: cursor.key, letter: cursor.value } : undefined
      },
      remove: (key) => db.delete('letters', key),
      count: () => db.count('letters'),
    }
  } catch {
    return inMemory()
  }
}

function inMemory(): LetterBox {
  const kept = new Map<number, Letter>()
  let last = 0
  return {
    add: async (letter) => void kept.set(++last, letter),
    first: async () => {
      const [row] = kept
      return row && { key: row[0], letter: row[1] }
    },
    remove: async (key) => void kept.delete(key),
    count: async () => kept.size,
  }
}

import 'fake-indexeddb/auto'
import { IDBFactory } from 'fake-indexeddb'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newId } from '@/api/client'
import { useOutbox } from '@/api/outbox'
import { useHands } from '@/practice/hands'

type Said = { url: string; body: Record<string, unknown> }
let said: Said[] = []
let answerWith: (said: Said) => Response | Promise<Response>
const kept = (status = 201, body: unknown = { seq: 1, frame: null }) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

beforeEach(() => {
  setActivePinia(createPinia())
  vi.stubGlobal('indexedDB', new IDBFactory())
  vi.useFakeTimers({ toFake: ['setInterval'] })
  said = []
  answerWith = () => kept()
  vi.stubGlobal('fetch', async (request: Request) => {
    const one = { url: request.url, body: await request.json() }
    said.push(one)
    return answerWith(one)
  })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const remark = (text: string) => ({
  way: 'event' as const,
  flight: 'f1',
  body: { id: newId(), kind: 'remark' as const, body: { text } },
})
const texts = () => said.map((one) => (one.body.body as { text: string }).text)
const SETTLES_MS = 150 // of this machine's clock, which no test fakes: a busy one writes its letters slowly
const settled = () => new Promise((go) => setTimeout(go, SETTLES_MS))

describe('the outbox', () => {
  it('delivers in order', async () => {
    const outbox = useOutbox()
    await Promise.all(['a', 'b', 'c'].map((text) => outbox.send(remark(text))))
    await vi.waitFor(() => expect(texts()).toEqual(['a', 'b', 'c']))
    await vi.waitFor(() => expect(outbox.waiting).toBe(0))
  })

  it('keeps what the server did not take while it is away, and delivers it once', async () => {
    const outbox = useOutbox()
    answerWith = () => Promise.reject(new TypeError('no network'))
    await outbox.send(remark('kept'))
    expect(outbox.waiting).toBe(1)
    answerWith = () => kept()
    await outbox.flush()
    await outbox.flush()
    expect(texts()).toEqual(['kept', 'kept'])
    expect(said[0]!.body.id).toBe(said[1]!.body.id)
    expect(outbox.waiting).toBe(0)
  })

  it('delivers after a reload what an earlier page left', async () => {
    answerWith = () => Promise.reject(new TypeError('no network'))
    await useOutbox().send(remark('before the reload'))
    said = []
    answerWith = () => kept()
    setActivePinia(createPinia())
    const reloaded = useOutbox()
    await vi.waitFor(() => expect(texts()).toEqual(['before the reload']))
    await vi.waitFor(() => expect(reloaded.waiting).toBe(0))
  })

  it('waits while the database is busy', async () => {
    const outbox = useOutbox()
    answerWith = () => kept(503, { code: 'busy', message: 'busy', where: null })
    await outbox.send(remark('busy'))
    expect(outbox.waiting).toBe(1)
    expect(outbox.refused).toEqual([])
  })

  it.each([500, 502, 503, 408, 429])('throws nothing away on an answer of %i, and keeps the order', async (status) => {
    const outbox = useOutbox()
    answerWith = () => kept(status, { code: 'internal_error', message: 'no', where: null })
    await outbox.send(remark('first'))
    await outbox.send(remark('second'))
    expect(outbox.waiting).toBe(2)
    said = []
    answerWith = () => kept()
    await outbox.flush()
    expect(texts()).toEqual(['first', 'second'])
    expect(outbox.refused).toEqual([])
  })

  it('waits longer after each failure, and not at all once the server is heard again', async () => {
    vi.useFakeTimers({ toFake: ['setInterval', 'Date'] })
    const outbox = useOutbox()
    answerWith = () => kept(503, { code: 'busy', message: 'busy', where: null })
    await outbox.send(remark('waits'))
    const triesIn = async (ms: number) => {
      said = []
      for (let at = 0; at < ms; at += 250) {
        vi.advanceTimersByTime(250)
        await settled()
      }
      return said.length
    }
    expect(await triesIn(500)).toBe(1)
    expect(await triesIn(500)).toBe(0)
    expect(await triesIn(500)).toBe(1)
    answerWith = () => kept()
    outbox.hurry()
    await triesIn(250)
    expect(outbox.waiting).toBe(0)
  })

  it('keeps one item once, however often it was tapped', async () => {
    const outbox = useOutbox()
    answerWith = () => Promise.reject(new TypeError('no network'))
    const tap = (item: string, shown?: number) => ({
      way: 'event' as const,
      flight: 'f1',
      body: { id: newId(), kind: 'item_done' as const, body: { item, shown } },
    })
    for (const shown of [1, 2, 3, 4, 5]) await outbox.send(tap('master_on', shown))
    await outbox.send(tap('mixture_rich'))
    expect(outbox.waiting).toBe(2)
  })

  it('takes back what is seen: what waits here first, then what the screen offers, each once', async () => {
    const outbox = useOutbox()
    answerWith = () => Promise.reject(new TypeError('no network'))
    const letter = remark('waits')
    await outbox.send(letter)
    for (let n = 0; n < 4; n++) await outbox.takeBack('f1', ['newest', 'older'])
    said = []
    answerWith = () => kept()
    await outbox.flush()
    const undone = said.filter((one) => one.url.endsWith('/undo')).map((one) => one.body.event)
    expect(undone).toEqual([letter.body.id, 'newest', 'older'])
  })

  it('says what was refused and goes on with the next', async () => {
    const outbox = useOutbox()
    answerWith = (one) =>
      (one.body.body as { text: string }).text === 'bad'
        ? kept(422, { code: 'event_error', message: 'It is too long.', where: 'text' })
        : kept()
    await outbox.send(remark('bad'))
    expect(outbox.refused.map((row) => row.value.why)).toEqual(['It is too long.'])
    expect(outbox.waiting).toBe(0)
    await outbox.send(remark('good'))
    expect(outbox.refused).toHaveLength(1)
    await outbox.dismiss(outbox.refused[0]!.key)
    expect(outbox.refused).toEqual([])
  })

  it('is emptied by one tab of two', async () => {
    let isBusy = false
    const order: (() => void)[] = []
    vi.stubGlobal('navigator', {
      locks: {
        request: async (_: string, work: () => Promise<void>) => {
          if (isBusy) await new Promise<void>((go) => order.push(go))
          isBusy = true
          try {
            await work()
          } finally {
            isBusy = false
            order.shift()?.()
          }
        },
      },
    })
    const first = useOutbox()
    setActivePinia(createPinia())
    const second = useOutbox()
    answerWith = async () => {
      await settled()
      return kept()
    }
    await Promise.all([first.send(remark('one')), second.send(remark('two')), first.flush(), second.flush()])
    await vi.waitFor(async () => {
      await Promise.all([first.flush(), second.flush()])
      expect(first.waiting + second.waiting).toBe(0)
    })
    expect(new Set(said.map((one) => one.body.id)).size).toBe(2)
    expect(said).toHaveLength(2)
  })
})

describe('hands', () => {
  it('do nothing later that could not be done now', async () => {
    const hands = useHands()
    answerWith = () => Promise.reject(new TypeError('no network'))
    await hands.move({ starter: true })
    expect(hands.problem).toContain('does not answer')
    answerWith = () => kept(200, { levers: {} })
    said = []
    await hands.move({ throttle: 0.5 })
    expect(said.map((one) => one.body)).toEqual([{ levers: { throttle: 0.5 } }])
  })

  it('of several moves of one lever send the newest', async () => {
    const hands = useHands()
    answerWith = async () => {
      await settled()
      return kept(200, { levers: {} })
    }
    await Promise.all([0.1, 0.2, 0.3].map((throttle) => hands.move({ throttle })))
    expect(said.map((one) => one.body)).toEqual([{ levers: { throttle: 0.1 } }, { levers: { throttle: 0.3 } }])
  })
})

import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { answer, api } from '@/api/client'
import type { EditPage, Wrong } from '@/api/schema'
import { type Json, type JsonObject, read, written } from './json'

const KEEP_AFTER_MS = 300
const ONE_STEP_MS = 1_000
const MOST_STEPS = 200

/** A profile that is being written: each change is a step that can be undone, is kept by the server a moment later, and comes back
 * after a reload. What is wrong with it comes from the server, by the place of the field. */
export function useDraft(id: string) {
  const params = { path: { profile_id: id } }
  const pending = `draft-pending:${id}`
  const page = shallowRef<EditPage>()
  const body = shallowRef<JsonObject>({})
  const wrong = shallowRef<Wrong[]>([])
  const problem = ref('')
  const state = ref<'none' | 'kept' | 'writing' | 'away'>('none')
  const past = shallowRef<JsonObject[]>([])
  const future = shallowRef<JsonObject[]>([])
  let last = { path: '', at: 0 }
  let timer = 0
  let isSending = false
  let isChanged = false

  const wrongAt = computed(() => new Map(wrong.value.map((one) => [one.place, one])))

  async function open() {
    try {
      take(await answer(api.GET('/api/aircraft/{profile_id}/edit', { params })))
      const unsent = localStorage.getItem(pending)
      if (unsent) change(JSON.parse(unsent) as JsonObject, '')
    } catch (error) {
      problem.value = (error as Error).message
    }
  }

  function take(said: EditPage) {
    page.value = said
    body.value = said.body as JsonObject
    wrong.value = said.wrong
    state.value = said.is_draft ? 'kept' : 'none'
    past.value = []
    future.value = []
    problem.value = ''
  }

  function at(path: string): Json | undefined {
    return read(body.value, path)
  }

  /** Write a field; nothing takes it away. Letters typed into one field within a second are one step. */
  function set(path: string, value: Json | undefined) {
    const isTyped = typeof value === 'string' || typeof value === 'number'
    if (at(path) !== value) change(written(body.value, path, value), isTyped ? path : '')
  }

  function change(next: JsonObject, path: string) {
    const now = Date.now()
    const isSameStep = path !== '' && path === last.path && now - last.at < ONE_STEP_MS
    if (!isSameStep) past.value = [...past.value.slice(1 - MOST_STEPS), body.value]
    last = { path, at: now }
    future.value = []
    show(next)
  }

  function show(next: JsonObject) {
    body.value = next
    isChanged = true
    state.value = 'writing'
    clearTimeout(timer)
    timer = window.setTimeout(keep, KEEP_AFTER_MS)
  }

  function step(from: typeof past, to: typeof past) {
    const next = from.value.at(-1)
    if (!next) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, body.value]
    last = { path: '', at: 0 }
    show(next)
  }

  /** Send what is written, one after the other; what cannot be sent waits on this device. */
  async function keep() {
    if (isSending || !isChanged) return
    isSending = true
    isChanged = false
    const sent = body.value
    try {
      const said = await answer(api.PUT('/api/aircraft/{profile_id}/draft', { params, body: sent }))
      wrong.value = said.wrong
      if (!isChanged) state.value = said.is_draft ? 'kept' : 'none'
      localStorage.removeItem(pending)
      problem.value = ''
    } catch (error) {
      isChanged = true
      state.value = 'away'
      problem.value = (error as Error).message
      localStorage.setItem(pending, JSON.stringify(body.value))
    } finally {
      isSending = false
      if (isChanged) timer = window.setTimeout(keep, state.value === 'away' ? 3_000 : KEEP_AFTER_MS)
    }
  }

  /** Wait until all that is written is kept. Throws where the server does not take it. */
  async function settled() {
    clearTimeout(timer)
    while (isChanged || isSending) {
      await keep()
      if (state.value === 'away') throw new Error(problem.value)
      if (isSending) await new Promise((go) => setTimeout(go, 50))
    }
  }

  async function discard() {
    clearTimeout(timer)
    isChanged = false
    localStorage.removeItem(pending)
    take(await answer(api.DELETE('/api/aircraft/{profile_id}/draft', { params })))
  }

  useEventListener(window, 'pagehide', () => {
    // a letter on its way may be lost with the page: what is kept twice is the same
    if (isChanged || isSending) localStorage.setItem(pending, JSON.stringify(body.value))
  })
  onMounted(open)

  return {
    page,
    body,
    wrong,
    wrongAt,
    problem,
    state,
    at,
    set,
    change,
    open,
    discard,
    settled,
    undo: () => step(past, future),
    redo: () => step(future, past),
    canUndo: computed(() => past.value.length > 0),
    canRedo: computed(() => future.value.length > 0),
  }
}

export type Draft = ReturnType<typeof useDraft>

import { shallowRef } from 'vue'
import { answer, api } from '@/api/client'
import type { Method } from '@/api/schema'

const known = shallowRef<Record<string, Method>>({})

/** How verdicts are made, by kind; asked for once, at the first tap. */
export function useMethods() {
  async function load() {
    if (Object.keys(known.value).length) return
    const { methods } = await answer(api.GET('/api/methods'))
    known.value = Object.fromEntries(methods.map((method) => [method.kind, method]))
  }
  return { known, load }
}

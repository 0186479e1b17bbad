import { defineStore } from 'pinia'
import { ref } from 'vue'
import { answer, api } from '@/api/client'
import type { Cockpit } from '@/api/schema'

/** What the hand can move in the aircraft that is flown: asked for by the column of levers, shown beside the item too. */
export const useCockpit = defineStore('cockpit', () => {
  const cockpit = ref<Cockpit>({ engines: [], controls: [], actions: [] })

  async function load() {
    try {
      cockpit.value = await answer(api.GET('/api/live/cockpit'))
    } catch {
      // the levers are not there; that the server is away is said by the flight itself
    }
  }

  return { cockpit, load }
})

import { computed, shallowRef, watch } from 'vue'
import { api } from '@/api/client'
import type { PanelPage } from '@/api/schema'

/** Where the controls of the aircraft being flown are on the photo of its panel, asked for once; none without a photo. */
export function usePanelSpots(aircraft: () => string | undefined, control: () => string | undefined) {
  const page = shallowRef<PanelPage>()
  watch(
    aircraft,
    async (id) => {
      page.value = undefined
      if (!id) return
      const said = await api
        .GET('/api/aircraft/{profile_id}/panel', { params: { path: { profile_id: id } } })
        .catch(() => null)
      page.value = said?.data
    },
    { immediate: true },
  )
  return computed(() => (page.value?.width ? page.value.spots.find((one) => one.control === control()) : undefined))
}

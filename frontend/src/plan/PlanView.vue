<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { onMounted, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import { useDisplay } from '@/parts/display'
import PageFrame from '@/parts/PageFrame.vue'
import { useTypedUnits } from '@/parts/useTypedUnits'
import ClimbTable from './ClimbTable.vue'
import PlanForm from './PlanForm.vue'
import PlanPictures from './PlanPictures.vue'
import SettingTable from './SettingTable.vue'
import TankTable from './TankTable.vue'
import { NOTHING_ASKED, queryOf, type Asked } from './asked'

/** Before the flight: what to set for a power, what full throttle still gives by altitude, and the climb. Prints as a card. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const asked = ref<Asked>({ ...NOTHING_ASKED })
useTypedUnits(asked, { oat_c: 'c', fuel: 'gal', wind_kt: 'kt' })
const {
  answer: page,
  problem,
  ask,
} = useAnswer(async () => {
  await display.load() // fuel is asked for in the unit on display
  const query = queryOf(asked.value, display.toCore)
  const params = { path: { profile_id: props.id }, query }
  return answer(api.GET('/api/aircraft/{profile_id}/plan', { params }))
})
watchDebounced([asked, () => display.chosen], ask, { deep: true, debounce: 300 })
onMounted(() => {
  const once = watch(page, (now) => {
    if (now?.cruise_ft && !asked.value.palt_ft) asked.value.palt_ft = String(now.cruise_ft)
    once()
  })
})
const printIt = () => window.print()
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    title="Plan"
    :problem="problem"
    :waiting="!page"
  >
    <button type="button" class="print" @click="printIt">Print the card</button>
    <PlanForm v-model="asked" :targets="page?.targets ?? []" />
    <template v-if="page">
      <p v-if="page.plan.refused" class="stop" role="alert">
        <b>{{ display.sentence(page.plan.refused) }}</b>
      </p>
      <div class="halves">
        <SettingTable :plan="page.plan" :pct="asked.pct || '65'" />
        <div>
          <ClimbTable v-if="page.plan.climb.length" :rows="page.plan.climb" />
          <TankTable v-if="page.plan.tanks" :tanks="page.plan.tanks" />
        </div>
      </div>
      <PlanPictures :plan="page.plan" :targets="page.targets" :here-ft="Number(asked.palt_ft || 0)" />
    </template>
  </PageFrame>
</template>

<style scoped>
.print {
  float: right;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 8fr) minmax(0, 5fr);
  gap: 12px 32px;
}
@media (max-width: 600px) {
  .print {
    float: none;
    margin-bottom: 12px;
  }
}
@media (max-width: 1000px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

<script setup lang="ts">
import type { Frame } from '@/api/schema'
import { watch } from 'vue'
import PanelPhoto from '@/aircraft/PanelPhoto.vue'
import { usePanelSpots } from './usePanelSpots'
import { KEYS } from './useKeys'
import { useFlight } from './flight'
import BriefingLines from './BriefingLines.vue'
import CylinderBars from './CylinderBars.vue'
import SideCard from './SideCard.vue'
import { useDisplay } from '@/parts/display'

/** What lies beside the flight and is asked for: keys, the take-off briefing, all cylinders, the emergency drills. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
}>()
const display = useDisplay()
/** Which card is open. */
const card = defineModel<'keys' | 'emergency' | 'briefing' | 'cylinders' | 'where'>()
/** Where the control of this item is on the photo of the panel. */
const spot = usePanelSpots(
  () => props.frame.aircraft,
  () => props.frame.item?.control,
)
watch(spot, (found) => !found && card.value === 'where' && (card.value = undefined))
defineExpose({ spot })
const flight = useFlight()
</script>

<template>
  <SideCard v-if="card === 'keys'" title="Keys" @closed="card = undefined">
    <p v-for="[key, what] in KEYS" :key="key" class="keyline">
      <b>{{ key }}</b> {{ what }}
    </p>
  </SideCard>
  <SideCard v-if="card === 'briefing'" title="Take-off briefing" @closed="card = undefined">
    <BriefingLines :lines="frame.briefing.lines" />
    <button type="button" class="main" @click="(flight.event('briefing_read', {}), (card = undefined))">
      Briefing read
    </button>
  </SideCard>
  <SideCard
    v-if="card === 'where' && spot && frame.item"
    :title="frame.item.challenge"
    over-list
    @closed="card = undefined"
  >
    <PanelPhoto :id="frame.aircraft" :spots="[spot]" :chosen="spot.control" />
    <p>{{ frame.item.where }}{{ frame.item.mistaken_for ? ` Not: ${frame.item.mistaken_for}.` : '' }}</p>
  </SideCard>
  <SideCard v-if="card === 'cylinders'" title="Cylinders" over-list @closed="card = undefined">
    <CylinderBars :engines="frame.cylinders" />
  </SideCard>
  <SideCard v-if="card === 'emergency'" title="Emergency" @closed="card = undefined">
    <section v-for="drill in frame.emergency" :key="drill.title">
      <h3 class="stop">{{ drill.title }}</h3>
      <ol>
        <li v-for="step in drill.steps" :key="step">{{ display.sentence(step) }}</li>
      </ol>
    </section>
    <p class="soft">Your aircraft’s own drill comes first.</p>
  </SideCard>
</template>

<style scoped>
.keyline b {
  display: inline-block;
  min-width: 120px;
}
ol {
  font-size: 22px;
}
</style>

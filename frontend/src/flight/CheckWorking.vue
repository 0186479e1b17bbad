<script setup lang="ts">
import { computed } from 'vue'
import type { Frame } from '@/api/schema'
import FindingCard from '@/parts/FindingCard.vue'
import { prefixOf } from '@/practice/owning'
import WantedLever from '@/practice/WantedLever.vue'
import { useFlight } from './flight'
import LeanWorking from './LeanWorking.vue'
import RunUpWorking from './RunUpWorking.vue'
import { usePanels } from './usePanels'

/** What the current item's check measures while it is made: a leaning, a run-up check, or what was found. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
  /** The simulated engine's levers can be moved. */
  hasLevers: boolean
  /** Figures alone, without their trace: something else needs the room. */
  bare: boolean
}>()
const flight = useFlight()
const { shows, large, hottestF } = usePanels()
const item = computed(() => props.frame.item ?? null)
</script>

<template>
  <LeanWorking
    v-if="shows?.working === 'lean'"
    class="work"
    :working="frame.working.lean ?? null"
    :finding="item?.finding ?? null"
    :cht-f="hottestF"
  >
    <WantedLever v-if="hasLevers" :wanted="`${prefixOf(item?.engine ?? 1)}mixture`" :levers="frame.levers" />
  </LeanWorking>
  <RunUpWorking
    v-else-if="shows?.working"
    class="work"
    :working="frame.working.magneto ?? null"
    :slots="frame.working.slots ?? []"
    :finding="item?.finding ?? null"
    :bare="bare"
  />
  <FindingCard
    v-else-if="item?.finding && !large"
    :finding="item.finding"
    live
    @named="(first) => flight.event('sides_named', { first, engine: item!.finding!.engine })"
  />
</template>

<script setup lang="ts">
import { computed } from 'vue'
import type { MagnetoWorking, ShownFinding, SideSlot } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'
import SideSlots from './SideSlots.vue'
import SwitchStrip from './SwitchStrip.vue'
import FindingCard from '@/parts/FindingCard.vue'

/** The check as it is made: the drop measured live on a trace of RPM and EGT, then its finding. */
const props = defineProps<{
  /** The drop so far, while something is away. */
  working: MagnetoWorking | null
  /** The sides of a magneto check, as they fill. */
  slots: SideSlot[]
  /** The last finding of this item's check. */
  finding: ShownFinding | null
  /** Without the trace: its room is needed for what to do next. */
  bare?: boolean
}>()
const flight = useFlight()
const display = useDisplay()
const data = computed(() => {
  const now = flight.trace.at(-1)?.t ?? 0
  const last = flight.trace.filter((p) => p.t > now - SHOWN_S)
  return [
    last.map((p) => p.t - now),
    last.map((p) => p.rpm),
    last.map((p) => (p.egt === null ? null : display.number(p.egt, 'f'))),
  ]
})
const SHOWN_S = 45
/** What may be lost on the side that is being made, from the speed before it. */
const allowed = computed<[number, number] | undefined>(() => {
  const most = props.slots.find((slot) => slot.state === 'going')?.most
  return props.working && most !== undefined ? [props.working.base_rpm - most, props.working.base_rpm] : undefined
})
const lines = [
  { label: 'RPM', scale: 'rpm', width: 3 },
  { label: 'EGT', scale: 'egt', dash: [6, 4] },
]
const words = computed(() =>
  props.working
    ? `Fall so far ${props.working.drop_rpm} ${props.working.unit}`
    : 'RPM as a full line, EGT dashed, last 45 seconds',
)
</script>

<template>
  <section class="working" :class="{ bare }" aria-label="Run-up working">
    <p v-if="working" class="live">
      <span>{{ working.base_rpm }} → {{ working.now_rpm }}</span>
      <b>−{{ working.drop_rpm }}</b>
      <span>{{ working.unit }} {{ working.side }} {{ working.settled ? 'settled' : 'settling' }}</span>
    </p>
    <FindingCard
      v-else-if="finding"
      :finding="finding"
      live
      @named="(first) => flight.event('sides_named', { first, engine: finding!.engine })"
    />
    <SideSlots v-if="slots.length && !bare && finding?.verdict !== 'stop'" :slots="slots" />
    <div v-if="!bare" class="trace">
      <LiveTrace
        :data="data"
        :lines="lines"
        :axis="{ x: 'seconds', y: 'RPM', y2: `EGT ${display.label('f')}` }"
        :level="allowed"
        :label="words"
      />
    </div>
    <SwitchStrip v-if="!bare" :seconds="SHOWN_S" />
  </section>
</template>

<style scoped>
.working {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto auto minmax(110px, 1fr) auto;
  gap: 8px;
  min-height: 0;
}
.working.bare {
  flex: none;
  grid-template-rows: auto;
}
.live {
  display: flex;
  gap: 18px;
  align-items: baseline;
}
.live b {
  font-size: var(--big);
  line-height: 1;
}
.trace {
  min-height: 210px;
  position: relative;
}
</style>

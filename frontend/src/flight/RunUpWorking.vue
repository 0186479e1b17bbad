<script setup lang="ts">
import { computed } from 'vue'
import type { MagnetoWorking, ShownFinding } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'
import FindingCard from '@/parts/FindingCard.vue'

/** The check as it is made: the drop measured live on a trace of RPM and EGT, then its finding. */
const props = defineProps<{
  /** The drop so far, while something is away. */
  working: MagnetoWorking | null
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
    <div v-if="!bare" class="trace">
      <LiveTrace
        :data="data"
        :lines="lines"
        :axis="{ x: 'seconds', y: 'RPM', y2: `EGT ${display.label('f')}` }"
        :label="words"
      />
    </div>
  </section>
</template>

<style scoped>
.working {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(110px, 1fr);
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

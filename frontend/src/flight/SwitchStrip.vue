<script setup lang="ts">
import { computed } from 'vue'
import { useFlight } from './flight'

/** Under the trace, on its time axis: where the magneto switch was. */
const props = defineProps<{
  /** How many seconds the trace shows. */
  seconds: number
}>()
const flight = useFlight()
const parts = computed(() => {
  const now = flight.trace.at(-1)?.t ?? 0
  const made: { mag: string; from: number; to: number }[] = []
  for (const point of flight.trace) {
    if (point.mag === null || point.t <= now - props.seconds) continue
    const last = made.at(-1)
    if (last?.mag === point.mag) last.to = point.t
    else made.push({ mag: point.mag, from: last?.to ?? point.t, to: point.t })
  }
  const share = (t: number) => ((t - (now - props.seconds)) / props.seconds) * 100
  return made.map((part) => ({ ...part, left: share(part.from), width: share(part.to) - share(part.from) }))
})
</script>

<template>
  <div v-if="parts.length" class="strip" aria-hidden="true">
    <span
      v-for="part in parts"
      :key="part.from"
      :class="{ one: part.mag !== 'BOTH' }"
      :style="{ left: `${part.left}%`, width: `${part.width}%` }"
      >{{ part.width > 6 * part.mag.length ? part.mag : '' }}</span
    >
  </div>
</template>

<style scoped>
.strip {
  position: relative;
  height: 28px;
  margin: 0 76px;
  border: 1px solid var(--line);
}
span {
  position: absolute;
  top: 0;
  bottom: 0;
  overflow: hidden;
  text-align: center;
  white-space: nowrap;
  color: var(--soft);
}
.one {
  background: var(--key);
  color: var(--on-key);
}
</style>

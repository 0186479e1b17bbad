<script setup lang="ts">
import { computed } from 'vue'

/** A thin band with a mark: where a figure is between its lowest and its highest limit. */
const props = defineProps<{
  /** The figure, in the unit of the limits. */
  value: number | null
  /** Lowest limit, if there is one. */
  low: number | null
  /** Highest limit, if there is one. */
  high: number | null
}>()

const scale = computed(() => {
  const low = props.low ?? 0
  const high = props.high ?? Math.max(low * 2, 1)
  const room = (high - low) * 0.15
  return { from: low - (props.low === null ? 0 : room), to: high + room, low, high }
})
const place = (v: number) => {
  const { from, to } = scale.value
  return Math.min(Math.max(((v - from) / (to - from)) * 100, 0), 100)
}
</script>

<template>
  <svg class="band" viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
    <line x1="0" x2="100" y1="5" y2="5" class="line" />
    <line :x1="place(scale.low)" :x2="place(scale.high)" y1="5" y2="5" class="range" />
    <rect v-if="value !== null" :x="place(value) - 0.8" y="0" width="1.6" height="10" class="mark" />
  </svg>
</template>

<style scoped>
.band {
  width: 100%;
  height: 10px;
  display: block;
}
.line {
  stroke: var(--line);
  stroke-width: 2;
}
.range {
  stroke: var(--soft);
  stroke-width: 4;
}
.mark {
  fill: var(--ink);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

/** One reading of two engines: bars from the middle outwards, so that a difference is seen before a figure is read. */
const props = defineProps<{
  /** The figures of the left and the right engine, in the unit of the limits. */
  values: [number | null, number | null]
  /** Lowest limit, if there is one. */
  low: number | null
  /** Highest limit, if there is one. */
  high: number | null
}>()
const HALF = 49
const full = computed(() => {
  const most = Math.max(props.high ?? 0, (props.low ?? 0) * 2, ...props.values.map((value) => value ?? 0))
  return most > 0 ? most * 1.1 : 1
})
const long = (value: number | null) => (Math.max(value ?? 0, 0) / full.value) * HALF
const limits = computed(() => [props.low, props.high].filter((limit) => limit !== null).map(long))
</script>

<template>
  <svg class="pair" viewBox="0 0 100 12" preserveAspectRatio="none" aria-hidden="true">
    <line x1="0" x2="100" y1="6" y2="6" class="line" />
    <rect :x="50 - long(values[0])" :width="long(values[0])" y="2" height="8" class="bar" />
    <rect x="50" :width="long(values[1])" y="2" height="8" class="bar" />
    <g v-for="at in limits" :key="at">
      <rect :x="49.7 - at" width="0.6" y="0" height="12" class="limit" />
      <rect :x="49.7 + at" width="0.6" y="0" height="12" class="limit" />
    </g>
    <rect x="49.6" width="0.8" y="0" height="12" class="middle" />
  </svg>
</template>

<style scoped>
.pair {
  width: 100%;
  height: 12px;
  display: block;
}
.line {
  stroke: var(--line);
  stroke-width: 1;
}
.bar {
  fill: var(--soft);
}
.limit,
.middle {
  fill: var(--ink);
}
</style>

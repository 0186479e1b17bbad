<script setup lang="ts">
import { computed } from 'vue'
import type { FlightLine } from '@/api/schema'

/** The magneto drops of the last flights as a small line each, oldest first, the newest named at its end. */
const props = defineProps<{
  /** The flights, newest first. */
  flights: FlightLine[]
}>()
const WIDTH = 220
const HEIGHT = 56
const own = computed(() =>
  props.flights
    .filter((f) => f.drops.length === 1 && f.drops[0]!.first_rpm !== null && f.drops[0]!.second_rpm !== null)
    .map((f) => f.drops[0]!)
    .reverse(),
)
const sides = computed(() => [
  { name: own.value.at(-1)?.sides_known ? 'left' : 'first', dash: '', of: own.value.map((d) => d.first_rpm!) },
  { name: own.value.at(-1)?.sides_known ? 'right' : 'second', dash: '6 4', of: own.value.map((d) => d.second_rpm!) },
])
const range = computed(() => {
  const all = sides.value.flatMap((side) => side.of)
  const [low, high] = [Math.min(...all), Math.max(...all)]
  return { low: low - 5, span: Math.max(high - low + 10, 20) }
})
const x = (n: number) => 4 + (n / Math.max(own.value.length - 1, 1)) * (WIDTH - 8)
const y = (rpm: number) => HEIGHT - 4 - ((rpm - range.value.low) / range.value.span) * (HEIGHT - 8)
const points = (of: number[]) => of.map((rpm, n) => `${x(n)},${y(rpm)}`).join(' ')
</script>

<template>
  <figure v-if="own.length > 1" class="drops">
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" :width="WIDTH" :height="HEIGHT" role="img" aria-label="Magneto drops">
      <g v-for="side in sides" :key="side.name">
        <polyline :points="points(side.of)" fill="none" :stroke-dasharray="side.dash" />
        <circle :cx="x(side.of.length - 1)" :cy="y(side.of.at(-1)!)" r="3.5" />
      </g>
    </svg>
    <figcaption>
      Drops of {{ own.length }} flights:
      <span v-for="(side, n) in sides" :key="side.name"
        >{{ n ? ', dashed ' : '' }}{{ side.name }} <b>{{ Math.round(side.of.at(-1)!) }}</b></span
      >
      RPM
    </figcaption>
  </figure>
</template>

<style scoped>
.drops {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
}
polyline {
  stroke: var(--ink);
  stroke-width: 2.5;
}
circle {
  fill: var(--ink);
}
</style>

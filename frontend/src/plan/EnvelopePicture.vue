<script setup lang="ts">
import { computed } from 'vue'
import type { Balance, Loaded } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** The envelope with where the aircraft is at take-off, at landing and without fuel; a helicopter's across below. */
const props = defineProps<{
  /** What the handbook says of the loading. */
  balance: Balance
  /** Where the aircraft is. */
  states: Loaded[]
}>()
const WIDE = 640
const HIGH = 380
const display = useDisplay()
type Point = [number, number]

function picture(corners: Point[], points: Point[]) {
  const all = [...corners, ...points]
  const [xs, ys] = [all.map((p) => p[0]), all.map((p) => p[1])]
  const span = (of: number[]) => ({ low: Math.min(...of), over: Math.max(...of) - Math.min(...of) || 1 })
  const [x, y] = [span(xs), span(ys)]
  const at = (p: Point) => [
    70 + ((p[0] - x.low) / x.over) * (WIDE - 110),
    HIGH - 50 - ((p[1] - y.low) / y.over) * (HIGH - 90),
  ]
  return {
    edge: corners.map((p) => at(p).join(',')).join(' '),
    marks: points.map(at),
    path: points.map((p) => at(p).join(',')).join(' '),
    low: [x.low, y.low] as Point,
    high: [x.low + x.over, y.low + y.over] as Point,
  }
}
const along = computed(() =>
  picture(
    props.balance.envelope as Point[],
    props.states.map((s) => [s.arm_m, s.mass_kg]),
  ),
)
const across = computed(() =>
  props.balance.across.length
    ? picture(
        props.balance.across as Point[],
        props.states.map((s) => [s.arm_m, s.across_m]),
      )
    : null,
)
const pictures = computed(() => [
  { ...along.value, up: 'kg', title: 'Mass over arm' },
  ...(across.value ? [{ ...across.value, up: 'm', title: 'To the right over arm' }] : []),
])
const NAMES = ['T', 'L', '0']
</script>

<template>
  <div>
    <svg
      v-for="one in pictures"
      :key="one.title"
      :viewBox="`0 0 ${WIDE} ${HIGH}`"
      role="img"
      :aria-label="`${one.title}: ${states.map((s) => `${s.title} ${s.is_inside ? 'inside' : 'outside'}`).join(', ')}`"
    >
      <polygon :points="one.edge" class="edge" />
      <polyline :points="one.path" class="path" />
      <g v-for="(mark, at) in one.marks" :key="at" :class="{ out: !states[at]!.is_inside }">
        <circle :cx="mark[0]" :cy="mark[1]" r="14" />
        <text :x="mark[0]" :y="mark[1]! + 6">{{ NAMES[at] }}</text>
      </g>
      <text x="70" :y="HIGH - 14" class="axis start">{{ display.withUnit(one.low[0], 'm') }}</text>
      <text :x="WIDE - 40" :y="HIGH - 14" class="axis end">{{ display.withUnit(one.high[0], 'm') }}</text>
      <text x="62" :y="HIGH - 50" class="axis end">{{ display.figure(one.low[1], one.up) }}</text>
      <text x="62" y="46" class="axis end">{{ display.figure(one.high[1], one.up) }}</text>
      <text x="70" y="24" class="axis start">{{ one.title }} [{{ display.label(one.up) }}]</text>
    </svg>
    <p class="soft">T take-off, L landing, 0 without fuel</p>
  </div>
</template>

<style scoped>
svg {
  width: 100%;
  max-height: 46vh;
}
.edge {
  fill: var(--raised);
  stroke: var(--ink);
  stroke-width: 2;
}
.path {
  fill: none;
  stroke: var(--soft);
  stroke-width: 2;
  stroke-dasharray: 6 5;
}
circle {
  fill: var(--good);
}
.out circle {
  fill: var(--stop);
}
text {
  font-size: 17px;
  text-anchor: middle;
  fill: var(--paper);
}
.axis {
  fill: var(--ink);
}
.start {
  text-anchor: start;
}
.end {
  text-anchor: end;
}
</style>

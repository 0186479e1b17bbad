<script setup lang="ts">
import { computed } from 'vue'
import type { Named, Plan } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import { useDisplay } from '@/parts/display'

/** The pictures of a plan: power by height, power by mixture, the climb, a helicopter's limit of manifold pressure. */
const props = defineProps<{
  /** The plan. */
  plan: Plan
  /** The ways to lean that the type has. */
  targets: Named[]
  /** The pressure altitude that is planned, ft. */
  hereFt: number
}>()
const display = useDisplay()
const DASHES = [[], [10, 6], [3, 5], [12, 4, 3, 4]]
const DASH_NAMES = ['Full', 'Dashed', 'Dotted', 'Dash-dotted']
const dashed = (labels: string[]) =>
  labels.map((label, k) => ({ label, scale: 'y', width: 3, dash: DASHES[k % DASHES.length] }))
const legend = (labels: string[]) => labels.map((label, k) => `${DASH_NAMES[k % 4]}: ${label}`).join(' · ')
const apart = (f: number) => display.number(f, 'f') - display.number(0, 'f')

interface Picture {
  title: string
  data: (number | null)[][]
  labels: string[]
  axis: { x: string; y: string }
  note: string
  marks?: { at: number; text: string }[]
  band?: [number, number]
}
const pictures = computed<Picture[]>(() => {
  const { available, mixture, climb, map_limit: limit, map_limit_inhg: now } = props.plan
  const speeds = available.lines.map((l) => `${l.rpm} RPM`)
  const found: Picture[] = [
    {
      title: 'What full throttle still gives',
      data: [available.palt_ft, ...available.lines.map((l) => l.pct)],
      labels: speeds,
      axis: { x: 'pressure altitude ft', y: '% of rated power' },
      note: legend(speeds),
    },
  ]
  if (props.targets.length)
    found.push({
      title: 'Power by mixture',
      data: [mixture.offset_f.map(apart), mixture.power_pct],
      labels: ['Power'],
      axis: { x: `${display.label('f')} lean (−) or rich of peak`, y: '% of best power' },
      marks: [{ at: 0, text: 'peak' }],
      band: mixture.avoid_f ? [apart(mixture.avoid_f.lean_end), apart(mixture.avoid_f.rich_end)] : undefined,
      note: mixture.avoid_f ? 'Hatched: not to be left there at this power' : 'Low power',
    })
  if (climb.length)
    found.push({
      title: 'Climb',
      data: [climb.map((r) => r.minutes), climb.map((r) => r.palt_ft)],
      labels: ['Height'],
      axis: { x: 'minutes', y: 'pressure altitude ft' },
      note: '',
    })
  if (limit) {
    const degrees = limit.lines.map((l) => display.withUnit(l.oat_c, 'c'))
    const unit = display.label('inhg')
    found.push({
      title: `Manifold pressure, limit of the day ${display.figure(now, 'inhg')} ${unit}`,
      data: [limit.palt_ft, ...limit.lines.map((l) => l.map_inhg.map((v) => display.number(v, 'inhg')))],
      labels: degrees,
      axis: { x: 'pressure altitude ft', y: `manifold pressure ${unit}` },
      marks: [{ at: props.hereFt, text: 'here' }],
      note: legend(degrees),
    })
  }
  return found
})
</script>

<template>
  <div class="pictures">
    <figure v-for="p in pictures" :key="p.title">
      <figcaption>{{ p.title }}</figcaption>
      <div class="plot">
        <LiveTrace
          :data="p.data"
          :lines="dashed(p.labels)"
          :marks="p.marks"
          :band="p.band"
          :axis="p.axis"
          :label="`${p.title}: ${p.labels.join(', ')}`"
        />
      </div>
      <p class="soft">{{ p.note }}</p>
    </figure>
  </div>
</template>

<style scoped>
.pictures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
  gap: 8px 24px;
}
figure {
  margin: 0;
}
figcaption {
  font-weight: 700;
}
.plot {
  position: relative;
  height: 220px;
}
</style>

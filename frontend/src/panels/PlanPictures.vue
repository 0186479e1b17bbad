<script setup lang="ts">
import { computed } from 'vue'
import type { Plan } from '@/api/types'
import LiveTrace from '@/charts/LiveTrace.vue'

/** The pictures of a plan: power by height, power by mixture, the climb, a helicopter's limit of manifold pressure. */
const props = defineProps<{
  /** The plan. */
  plan: Plan
  /** The pressure altitude that is planned, ft. */
  hereFt: number
}>()
const power = computed(() => [props.plan.available.palt_ft, ...props.plan.available.lines.map((l) => l.pct)])
const lines = computed(
  () =>
    props.plan.available.lines.map((l, k) => ({
      label: `${l.rpm} RPM`,
      scale: 'y',
      width: 3,
      dash: [[], [10, 6], [3, 5]][k],
    })) ?? [],
)
const DASHES = [[], [10, 6], [3, 5], [12, 4, 3, 4]]
const DASH_NAMES = ['Full', 'Dashed', 'Dotted', 'Dash-dotted']
const limits = computed(
  () =>
    props.plan.map_limit?.lines.map((l, k) => ({ label: `${l.oat_c} °C`, scale: 'y', width: 3, dash: DASHES[k] })) ??
    [],
)
</script>

<template>
  <div class="pictures">
    <figure>
      <figcaption>What full throttle still gives</figcaption>
      <div class="plot">
        <LiveTrace
          :key="lines.length"
          :data="power"
          :lines="lines"
          :axis="{ x: 'pressure altitude ft', y: '% of rated power' }"
          :label="`Power at full throttle against altitude, at ${lines.map((l) => l.label).join(', ')}`"
        />
      </div>
      <p class="soft">{{ lines.map((l, k) => `${['Full', 'Dashed', 'Dotted'][k]}: ${l.label}`).join(' · ') }}</p>
    </figure>
    <figure v-if="plan.targets.length">
      <figcaption>Power by mixture</figcaption>
      <div class="plot">
        <LiveTrace
          :data="[plan.mixture.offset_f, plan.mixture.power_pct]"
          :lines="[{ label: 'Power', scale: 'y', width: 3 }]"
          :band="plan.mixture.avoid_f ?? undefined"
          :marks="[{ at: 0, text: 'peak' }]"
          :axis="{ x: '°F lean (−) or rich of peak', y: '% of best power' }"
          label="Power against the distance from peak exhaust gas temperature"
        />
      </div>
      <p class="soft">{{ plan.mixture.avoid_f ? 'Hatched: not to be left there at this power' : 'Low power' }}</p>
    </figure>
    <figure v-if="plan.climb.length">
      <figcaption>Climb</figcaption>
      <div class="plot">
        <LiveTrace
          :data="[plan.climb.map((r) => r.minutes), plan.climb.map((r) => r.palt_ft)]"
          :lines="[{ label: 'Height', scale: 'y', width: 3 }]"
          :axis="{ x: 'minutes', y: 'pressure altitude ft' }"
          label="Height against minutes of climb"
        />
      </div>
    </figure>
    <figure v-if="plan.map_limit">
      <figcaption>Manifold pressure, limit of the day {{ plan.map_limit_inhg?.toFixed(1) }} inHg</figcaption>
      <div class="plot">
        <LiveTrace
          :data="[plan.map_limit.palt_ft, ...plan.map_limit.lines.map((l) => l.map_inhg)]"
          :lines="limits"
          :marks="[{ at: hereFt, text: 'here' }]"
          :axis="{ x: 'pressure altitude ft', y: 'manifold pressure inHg' }"
          label="The limit of manifold pressure by altitude, a line for each temperature"
        />
      </div>
      <p class="soft">{{ limits.map((l, k) => `${DASH_NAMES[k]}: ${l.label}`).join(' · ') }}</p>
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

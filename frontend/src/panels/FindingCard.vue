<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Finding } from '@/api/types'
import { useDisplay } from '@/stores/display'

/** A judgement: figure, limit, word, why, what to do, and where the limit comes from. */
const props = defineProps<{
  /** The finding to show. */
  finding: Finding
}>()
const display = useDisplay()
const showsMethod = ref(false)

const NAMES: Record<string, [string, string]> = {
  drop_left_rpm: ['Left drop', 'rpm'],
  drop_right_rpm: ['Right drop', 'rpm'],
  drop_first_rpm: ['First drop', 'rpm'],
  drop_second_rpm: ['Second drop', 'rpm'],
  difference_rpm: ['Difference', 'rpm'],
  drop_rpm: ['Fall when hot', 'rpm'],
  restored_rpm: ['Back at', 'rpm'],
  base_rpm: ['From', 'rpm'],
  idle_rpm: ['Idle', 'rpm'],
  static_rpm: ['Full throttle', 'rpm'],
  oil_pressure_s: ['To oil pressure', 's'],
  cranking_s: ['Cranked', 's'],
  spread_gph: ['Spread', 'gph'],
}
const ORDER = Object.keys(NAMES)
const figures = computed(() =>
  ORDER.filter((key) => typeof props.finding.measured[key] === 'number').map((key) => ({
    name: NAMES[key]![0],
    text: display.difference(props.finding.measured[key] as number, NAMES[key]![1]),
    unit: display.label(NAMES[key]![1]),
  })),
)
const limits = computed(() =>
  Object.entries(props.finding.limits).map(([name, value]) => `${name.replaceAll('_', ' ')} ${value}`),
)
const TITLES: Record<string, string> = {
  start: 'Start',
  mag_check: 'Magnetos',
  carb_heat_check: 'Carburettor heat',
  idle_check: 'Idle',
  lean: 'Leaning',
  warm_up: 'Warm-up',
  prop_cycle: 'Propeller',
  power_check: 'Full power',
  exceedance: 'Beyond a limit',
}
</script>

<template>
  <section class="finding" :aria-label="TITLES[finding.kind] ?? finding.kind">
    <p class="verdict" :class="finding.verdict">
      {{ TITLES[finding.kind] ?? finding.kind }}: {{ finding.verdict }}<small v-if="finding.typed"> (typed)</small>
    </p>
    <p class="figures">
      <span v-for="f in figures" :key="f.name"
        ><b>{{ f.text }}</b> {{ f.unit }} <small>{{ f.name }}</small></span
      >
    </p>
    <p>{{ finding.because }}</p>
    <p class="soft">{{ finding.next }}</p>
    <button type="button" class="plain why" :aria-expanded="showsMethod" @click="showsMethod = !showsMethod">
      Source: {{ finding.source }}
    </button>
    <p v-if="showsMethod" class="soft">
      Limits: {{ limits.join(', ') || 'none' }}. Settled means before and after, fitted with the engine’s own lag; the
      method is in docs/method.md.
    </p>
  </section>
</template>

<style scoped>
.finding {
  display: grid;
  gap: 4px;
}
.verdict {
  font-size: var(--mid);
  font-weight: 700;
}
.figures {
  display: flex;
  gap: 4px 22px;
  flex-wrap: wrap;
}
.figures b {
  font-size: var(--mid);
}
.why {
  justify-self: start;
  padding: 0;
  text-decoration: underline;
}
</style>

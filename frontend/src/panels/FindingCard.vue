<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Finding } from '@/api/types'
import { useMethods } from '@/composables/useMethods'
import { findingTitle } from '@/parts/findingTitle'
import { useDisplay } from '@/stores/display'
import { useFlight } from '@/stores/flight'
import MethodText from './MethodText.vue'

/** A judgement: figure, limit, word, why, what to do, and where the limit comes from. */
const props = defineProps<{
  /** The finding to show. */
  finding: Finding
  /** In a flight that goes on: the pilot may still say which side was first. */
  live?: boolean
}>()
const flight = useFlight()
const display = useDisplay()
const { known, load } = useMethods()
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
  fall_rpm: ['Fall', 'rpm'],
  off_v: ['Off', 'v'],
  restored_v: ['On again', 'v'],
  suction_inhg: ['Suction', 'inhg'],
  volts_v: ['Bus', 'v'],
  rise_rpm: ['Rise', 'rpm'],
}
const ORDER = Object.keys(NAMES)
/** The plus-or-minus of a drop, beside it. */
const spread = (key: string) => {
  const value = props.finding.measured[key.replace('_rpm', '_plus_minus_rpm')]
  return key.startsWith('drop_') && typeof value === 'number' ? ` ± ${display.difference(value, 'rpm')}` : ''
}
const figures = computed(() =>
  ORDER.filter((key) => typeof props.finding.measured[key] === 'number').map((key) => ({
    name: NAMES[key]![0],
    text: display.difference(props.finding.measured[key] as number, NAMES[key]![1]) + spread(key),
    unit: display.label(NAMES[key]![1]),
  })),
)
const isUnnamed = computed(() => props.finding.measured.drop_first_rpm !== undefined && !props.finding.typed)
const name = (side: string) => flight.event('sides_named', { first: side })
const problem = ref('')
function toggle() {
  showsMethod.value = !showsMethod.value
  load().catch((error) => (problem.value = (error as Error).message))
}
const limits = computed(() =>
  Object.entries(props.finding.limits).map(([name, value]) => {
    const words = display.label(name.split('_').at(-1)) ? name.slice(0, name.lastIndexOf('_')) : name
    return `${words.replaceAll('_', ' ')} ${display.limit(name, value, '')}`
  }),
)
</script>

<template>
  <section class="finding" :aria-label="findingTitle(finding.kind)">
    <p class="verdict" :class="finding.verdict">
      {{ findingTitle(finding.kind) }}: {{ finding.verdict }}<small v-if="finding.typed"> (typed)</small>
    </p>
    <p class="figures">
      <span v-for="f in figures" :key="f.name"
        ><b>{{ f.text }}</b> {{ f.unit }} <small>{{ f.name }}</small></span
      >
    </p>
    <p>{{ display.sentence(finding.because) }}</p>
    <p v-if="live && isUnnamed" class="naming">
      Which side was first?
      <button v-for="side in ['left', 'right']" :key="side" type="button" @click="name(side)">
        {{ side }}
      </button>
    </p>
    <p class="soft">{{ display.sentence(finding.next) }}</p>
    <button type="button" class="plain why" :aria-expanded="showsMethod" @click="toggle">
      Source: {{ finding.source }}. How it is made
    </button>
    <template v-if="showsMethod">
      <p v-if="limits.length" class="soft">Limits: {{ limits.join(', ') }}.</p>
      <p v-if="problem" class="look" role="alert">{{ problem }}</p>
      <MethodText v-if="known[finding.kind]" :method="known[finding.kind]!" />
    </template>
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
.naming {
  display: flex;
  gap: 10px;
  align-items: center;
}
.why {
  justify-self: start;
  padding: 0;
  text-decoration: underline;
}
</style>

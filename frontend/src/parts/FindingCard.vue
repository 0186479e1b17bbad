<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ShownFigure, ShownFinding } from '@/api/schema'
import { useMethods } from './useMethods'
import { useDisplay } from '@/parts/display'
import FigureRuler from './FigureRuler.vue'
import MethodText from './MethodText.vue'
import VerdictPlate from './VerdictPlate.vue'

/** A judgement: figure, limit, word, why, what to do, and where the limit comes from. */
const props = defineProps<{
  /** The finding to show. */
  finding: ShownFinding
  /** In a flight that goes on: the pilot may still say which side was first. */
  live?: boolean
}>()
defineEmits<{
  /** Which magneto was checked first. */
  named: [side: 'left' | 'right']
}>()
const display = useDisplay()
const { known, load } = useMethods()
const showsMethod = ref(false)
const SIDES = ['left', 'right'] as const
/** A figure with what it may be off by. */
const figure = (f: ShownFigure) =>
  display.figure(f.value, f.unit) + (f.plus_minus === null ? '' : ` ± ${display.difference(f.plus_minus, f.unit)}`)
const hasLimit = (f: ShownFigure) => f.most !== null || f.least !== null
const ruled = computed(() => props.finding.figures.filter(hasLimit))
const bare = computed(() => props.finding.figures.filter((f) => !hasLimit(f)))
const problem = ref('')
function toggle() {
  showsMethod.value = !showsMethod.value
  load().catch((error) => (problem.value = (error as Error).message))
}
const limits = computed(() => props.finding.judged_by.map((l) => `${l.title} ${display.withUnit(l.value, l.unit)}`))
</script>

<template>
  <section class="finding" :aria-label="finding.title">
    <VerdictPlate :title="finding.title" :verdict="finding.verdict" :typed="finding.typed" />
    <FigureRuler v-for="f in ruled" :key="f.title" :figure="f" />
    <p v-if="bare.length" class="figures">
      <span v-for="f in bare" :key="f.title"
        ><b>{{ figure(f) }}</b> {{ display.label(f.unit) }} <small>{{ f.title }}</small></span
      >
    </p>
    <p>{{ display.sentence(finding.because) }}</p>
    <p v-if="live && finding.asks_sides" class="naming">
      Which side was first?
      <button v-for="side in SIDES" :key="side" type="button" @click="$emit('named', side)">
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

<script setup lang="ts">
import { computed } from 'vue'
import type { Frame } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** While an engine warms: what is wrong with it, and which of the three gates is open; later only what is not. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
}>()
const display = useDisplay()
const gates = computed(() => props.frame.gates.filter((gate) => !gate.open || props.frame.panels.warming))
</script>

<template>
  <section v-if="frame.start.warnings.length || gates.length" aria-label="Warm-up">
    <p v-for="words in frame.start.warnings" :key="words" class="look">
      <b>{{ display.sentence(words.charAt(0).toUpperCase() + words.slice(1)) }}</b>
    </p>
    <p v-for="gate in gates" :key="gate.gate" class="gate">
      <b :class="gate.open ? 'within' : 'look'">{{ gate.open ? '✓ Warm' : 'Not warm' }} for {{ gate.title }}</b>
      <span>{{ display.sentence(gate.not_met.join('; ')) + (gate.minutes ? `, about ${gate.minutes} min` : '') }}</span>
    </p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 2px;
}
.gate {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
</style>

<script setup lang="ts">
import type { ShownFinding } from '@/api/schema'

/** A verdict as a plate that is read at arm's length: a shape, a word, never colour alone. */
defineProps<{
  /** What was judged. */
  title: string
  /** The word. */
  verdict: ShownFinding['verdict']
  /** Whether its figures were typed. */
  typed: boolean
}>()
const SHAPES: Record<ShownFinding['verdict'], string> = {
  within: 'M4 20a16 16 0 1 1 32 0a16 16 0 1 1-32 0 M12 20l6 7 11-14',
  look: 'M20 4L37 35H3Z M20 15v10 M20 29v2',
  stop: 'M13 4H27L36 13V27L27 36H13L4 27V13Z M12 20H28',
  incomplete: 'M4 20a16 16 0 1 1 32 0 M4 20H36',
  unknown: 'M5 5H35V35H5Z M14 15q0-6 6-6t6 6q0 4-6 6v4 M20 29v2',
}
</script>

<template>
  <p class="plate" :class="verdict">
    <svg viewBox="0 0 40 40" width="40" height="40" aria-hidden="true"><path :d="SHAPES[verdict]" /></svg>
    <b>{{ title }}: {{ verdict }}</b>
    <small v-if="typed"> (typed)</small>
  </p>
</template>

<style scoped>
.plate {
  display: inline-flex;
  align-items: center;
  gap: 12px;
  justify-self: start;
  padding: 4px 18px 4px 8px;
  border: 3px solid currentcolor;
  border-radius: 10px;
  font-size: 32px;
  line-height: 1.15;
}
.plate.stop {
  background: var(--stop);
  color: var(--paper);
  border-color: var(--stop);
}
path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 3.5;
  stroke-linecap: round;
  stroke-linejoin: round;
}
svg {
  flex: none;
}
small {
  font-size: var(--small);
}
</style>

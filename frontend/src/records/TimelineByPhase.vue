<script setup lang="ts">
import { computed } from 'vue'
import type { TimelineLine } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { clock } from './words'

/** What was done, folded by phase: what matters stands open, the items that were ticked are a count that opens. */
const props = defineProps<{
  /** All lines in order of time. */
  lines: TimelineLine[]
}>()
const display = useDisplay()
interface Phase {
  title: string
  at: number
  told: TimelineLine[]
  quiet: TimelineLine[]
}
const phases = computed(() => {
  const made: Phase[] = []
  for (const line of props.lines) {
    if (made.at(-1)?.title !== line.phase) made.push({ title: line.phase, at: line.at_s, told: [], quiet: [] })
    if (line.text !== line.phase) made.at(-1)![line.is_quiet ? 'quiet' : 'told'].push(line)
  }
  return made
})
const ticked = (count: number) => `${count} ${count === 1 ? 'thing' : 'things'} ticked or set`
</script>

<template>
  <details v-for="phase in phases" :key="`${phase.at}-${phase.title}`" open>
    <summary>
      <b>{{ phase.title }}</b> <span class="soft">{{ clock(phase.at) }}</span>
    </summary>
    <ol>
      <li v-for="line in phase.told" :key="line.seq">
        <span class="soft">{{ clock(line.at_s) }}</span> {{ display.sentence(line.text) }}
      </li>
    </ol>
    <details v-if="phase.quiet.length" class="quiet">
      <summary class="soft">{{ ticked(phase.quiet.length) }}</summary>
      <ol>
        <li v-for="line in phase.quiet" :key="line.seq">
          <span class="soft">{{ clock(line.at_s) }}</span> {{ display.sentence(line.text) }}
        </li>
      </ol>
    </details>
  </details>
</template>

<style scoped>
details {
  border-bottom: 1px solid var(--line);
  padding-bottom: 6px;
}
.quiet {
  border: 0;
}
summary {
  min-height: 48px;
  display: list-item;
  padding-top: 12px;
  cursor: pointer;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0 0 0 20px;
}
li {
  display: grid;
  grid-template-columns: 64px 1fr;
  padding: 2px 0;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { BodyOf } from '@/api/letters'
import { useFlight } from './flight'

/** The facts of the day that decide which items are read. One tap each. */
const props = defineProps<{
  /** The facts known so far. */
  facts: Record<string, string | number | boolean | null>
  /** What this aircraft's lists ask for. */
  asked: string[]
}>()
const flight = useFlight()
type Fact = BodyOf<'fact'>
const YES_OR_NO: [Fact['value'], string][] = [
  [true, 'Yes'],
  [false, 'No'],
]
const ROWS: [Fact['name'], string, [Fact['value'], string][]][] = [
  [
    'start',
    'Start',
    [
      ['cold', 'Cold'],
      ['hot', 'Hot'],
      ['flooded', 'Flooded'],
    ],
  ],
  [
    'stood_h',
    'Stood for',
    [
      [0.2, 'Minutes'],
      [3, 'Hours'],
      [14, 'Overnight or longer'],
    ],
  ],
  [
    'first_of_day',
    'First flight of the day',
    [
      [true, 'Yes'],
      [false, 'No'],
    ],
  ],
  ['night', 'Night', YES_OR_NO],
  ['on_water', 'On water', YES_OR_NO],
  ['landing_on_water', 'Landing on water', YES_OR_NO],
]
/** What only some aircraft ask for is shown by those alone. */
const OF_SOME: Fact['name'][] = ['on_water', 'landing_on_water']
const rows = computed(() => ROWS.filter(([name]) => !OF_SOME.includes(name) || props.asked.includes(name)))
</script>

<template>
  <section class="day" aria-label="The day">
    <div v-for="[name, title, choices] in rows" :key="name" role="group" :aria-label="title">
      <span>{{ title }}</span>
      <button
        v-for="[value, word] in choices"
        :key="word"
        type="button"
        :aria-pressed="facts[name] === value"
        @click="flight.event('fact', { name, value })"
      >
        {{ word }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.day {
  display: grid;
  gap: 6px;
}
.day > div {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
span {
  min-width: 210px;
}
@media (max-width: 600px) {
  span {
    flex: 1 0 100%; /* the answers of a question stay in one row */
  }
}
</style>

<script setup lang="ts">
import type { BodyOf } from '@/api/letters'
import { useFlight } from './flight'

/** The facts of the day that decide which items are read. One tap each. */
defineProps<{
  /** The facts known so far. */
  facts: Record<string, string | number | boolean | null>
}>()
const flight = useFlight()
type Fact = BodyOf<'fact'>
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
  [
    'night',
    'Night',
    [
      [true, 'Yes'],
      [false, 'No'],
    ],
  ],
]
</script>

<template>
  <section class="day" aria-label="The day">
    <div v-for="[name, title, choices] in ROWS" :key="name" role="group" :aria-label="title">
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
</style>

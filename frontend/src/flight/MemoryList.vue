<script setup lang="ts">
import { computed } from 'vue'
import type { ShownList } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** A list that is confirmed as a whole: one for the air, done by heart, or one that is read against its flow. */
const props = defineProps<{
  /** The list. */
  list: ShownList
}>()
const display = useDisplay()
/** More than so many are not shown large: they would not be on one screen. */
const LARGE = 9
const open = computed(() => props.list.items.filter((line) => line.state !== 'done' && line.state !== 'not_applicable'))
</script>

<template>
  <section class="memory" :aria-label="`${list.title}, by heart`">
    <h1>{{ list.title }}</h1>
    <ul :class="{ many: open.length > LARGE }">
      <li v-for="line in open" :key="line.id">
        <b>{{ line.challenge }}</b>: {{ display.sentence(line.response, line.unit) }}
        <small v-if="line.needs_own_tap" class="look">its own tap, next</small>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h1 {
  font-size: var(--mid);
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  font-size: var(--mid);
  line-height: 1.35;
}
.many {
  font-size: inherit;
  columns: 2 320px;
  column-gap: 28px;
}
.many li {
  break-inside: avoid;
  margin-bottom: 6px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { ShownList } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** A short list for the air: all of it at once, large; done by heart and confirmed with one tap. */
const props = defineProps<{
  /** The list. */
  list: ShownList
}>()
const display = useDisplay()
const open = computed(() => props.list.items.filter((line) => line.state !== 'done' && line.state !== 'not_applicable'))
</script>

<template>
  <section class="memory" :aria-label="`${list.title}, by heart`">
    <h1>{{ list.title }}</h1>
    <ul>
      <li v-for="line in open" :key="line.id">
        <b>{{ line.challenge }}</b>: {{ display.sentence(line.response) }}
        <small v-if="line.killer" class="look">its own tap, next</small>
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
</style>

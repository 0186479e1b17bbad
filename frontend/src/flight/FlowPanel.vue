<script setup lang="ts">
import type { ShownList } from '@/api/schema'

/** The flow: areas of the cockpit to sweep from memory, before the list is read against it. */
defineProps<{
  /** The list whose flow this is. */
  list: ShownList
}>()
</script>

<template>
  <section class="flow" aria-label="Flow">
    <h1>{{ list.title }}: flow</h1>
    <p class="soft">Sweep these areas by heart, in this order. Then the list is read against it.</p>
    <ol>
      <li v-for="area in list.flow" :key="area">{{ area }}</li>
    </ol>
  </section>
</template>

<style scoped>
h1 {
  font-size: var(--mid);
  font-weight: 400;
}
ol {
  font-size: var(--mid);
  font-weight: 700;
  line-height: 1.35;
  margin: 8px 0 0;
  padding-left: 1.2em;
}
</style>

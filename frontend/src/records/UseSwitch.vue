<script setup lang="ts">
import type { Use } from '@/api/schema'

/** Whether the page shows real flights or those for practice: never both. */
defineProps<{
  /** Which are shown, and how many there are of either. */
  use: Use
}>()
const practice = defineModel<boolean>()
</script>

<template>
  <p class="use" role="group" aria-label="Which flights">
    <button type="button" :aria-pressed="!use.practice" @click="practice = false">Real ({{ use.real_flights }})</button>
    <button type="button" :aria-pressed="use.practice" @click="practice = true">
      Practice ({{ use.practice_flights }})
    </button>
  </p>
</template>

<style scoped>
.use {
  display: flex;
  gap: 6px;
  margin-bottom: 12px;
}
</style>

<script setup lang="ts">
import { useDisplay } from '@/parts/display'

/** The take-off briefing, line by line, large enough to read aloud. */
defineProps<{
  /** Its lines, in order. */
  lines: string[]
}>()
const display = useDisplay()
</script>

<template>
  <ol class="briefing" aria-label="Take-off briefing">
    <li v-for="line in lines" :key="line">{{ display.sentence(line) }}</li>
  </ol>
</template>

<style scoped>
.briefing {
  font-size: 22px;
  line-height: 1.3;
  margin: 0;
  padding-left: 1.4em;
  max-width: 62ch;
}
</style>

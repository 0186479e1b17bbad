<script setup lang="ts">
import type { StartNow } from '@/api/schema'
import CrankingBar from './CrankingBar.vue'
import { useStartTones } from './useStartTones'
import { useDisplay } from '@/parts/display'

/** Both hands are busy: one thing at a time, very large, that needs no touch and no sound. Nothing here can be pressed. */
const props = defineProps<{
  /** What is shown now, and of which engine. */
  start: StartNow
}>()
const display = useDisplay()
useStartTones(() => props.start.large)
</script>

<template>
  <section v-if="start.large" class="full" :class="start.large.mode" aria-label="Hands full">
    <p class="which">{{ start.engine_name ?? '' }}</p>
    <h1>{{ display.sentence(start.large.say) }}</h1>
    <p class="figure">{{ start.large.figure }}</p>
    <CrankingBar v-if="start.large.mode === 'cranking'" :starter="start.starter" />
    <p class="line">{{ display.sentence(start.large.line) }}</p>
  </section>
</template>

<style scoped>
.full {
  flex: 1 1 auto;
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 4px;
  padding: 8px 20px;
  border: 3px solid var(--line);
  border-radius: 12px;
  min-height: 320px;
}
h1 {
  font-size: 48px;
  line-height: 1;
  font-weight: 700;
}
.figure {
  font-size: 96px;
  line-height: 1;
  font-weight: 700;
  font-variant-numeric: tabular-nums;
}
.line,
.which {
  font-size: 32px;
  line-height: 1.2;
}
.stop,
.let_go,
.dying,
.died {
  border: 10px solid var(--stop);
  color: var(--stop);
}
.stop .line,
.let_go .line {
  color: var(--ink);
  font-weight: 700;
}
.seen {
  border-color: var(--good);
  color: var(--good);
}
.seen .line {
  color: var(--ink);
}
</style>

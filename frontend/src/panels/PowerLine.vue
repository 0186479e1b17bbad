<script setup lang="ts">
import type { PowerNow } from '@/api/types'

/** Percent of rated power now, by table and by fuel flow, and the clock of a time-limited rating. */
defineProps<{
  /** The power as the core sees it. */
  power: PowerNow
}>()
const clock = (s: number) => `${Math.floor(Math.max(s, 0) / 60)}:${String(Math.max(s, 0) % 60).padStart(2, '0')}`
</script>

<template>
  <p class="power" aria-label="Power">
    <b v-if="power.best_pct !== null">{{ Math.round(power.best_pct) }} %</b>
    <span :class="{ look: power.disagree }">{{ power.say }}</span>
    <span v-if="power.clock" :class="power.clock.left_s <= 0 ? 'stop' : 'look'">
      {{ power.clock.name }} power: {{ clock(power.clock.left_s) }} left
    </span>
  </p>
</template>

<style scoped>
.power {
  display: flex;
  gap: 14px;
  align-items: baseline;
  flex-wrap: wrap;
}
.power b {
  font-size: var(--mid);
}
</style>

<script setup lang="ts">
import type { Instrument } from '@/api/schema'
import BandGauge from '@/parts/BandGauge.vue'
import { useDisplay } from '@/parts/display'

/** The phase's instruments, each a figure on its band; out of limits it is named in words and colour. */
defineProps<{
  /** Five at most, and those that came by themselves. */
  instruments: Instrument[]
  /** No sample for a second: the figures are old. */
  stale: boolean
}>()
const display = useDisplay()
const WORDS = { ok: '', none: 'no reading', low: 'LOW', high: 'HIGH' }
</script>

<template>
  <ul class="column" aria-label="Instruments">
    <li v-for="i in instruments" :key="i.id" :class="{ stop: i.state === 'low' || i.state === 'high' }">
      <span class="name">{{ i.label }}</span>
      <span class="figure">{{ display.figure(i.value, i.unit) }}</span>
      <span class="unit"
        >{{ display.label(i.unit) }} <b v-if="stale">old</b><b v-else-if="WORDS[i.state]">{{ WORDS[i.state] }}</b></span
      >
      <BandGauge v-if="i.low !== null || i.high !== null" :value="i.value" :low="i.low" :high="i.high" />
    </li>
  </ul>
</template>

<style scoped>
.column {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
li {
  display: grid;
  grid-template-columns: 1fr auto 92px;
  align-items: baseline;
  column-gap: 8px;
}
.figure {
  font-size: var(--mid);
  font-weight: 700;
  text-align: right;
}
.band {
  grid-column: 1 / -1;
}
</style>

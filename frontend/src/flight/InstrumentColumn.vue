<script setup lang="ts">
import { computed } from 'vue'
import type { Instrument } from '@/api/schema'
import BandGauge from '@/parts/BandGauge.vue'
import PairBar from '@/parts/PairBar.vue'
import { useDisplay } from '@/parts/display'

/** The phase's instruments, each a figure on its band, those of two engines side by side; out of limits in words and colour. */
const props = defineProps<{
  /** Five at most, and those that came by themselves. */
  instruments: Instrument[]
  /** No sample for a second: the figures are old. */
  stale: boolean
  /** Whether single cylinders are read. */
  hasCylinders: boolean
}>()
defineEmits<{
  /** Show all cylinders. */
  cylinders: []
}>()
const display = useDisplay()
const WORDS = { ok: '', none: 'no reading', low: 'LOW', high: 'HIGH' }
const isOut = (i: Instrument) => i.state === 'low' || i.state === 'high'

/** One instrument a row, or the same of both engines, left first. */
const rows = computed(() => {
  const made: Instrument[][] = []
  for (const one of props.instruments) {
    const other = one.engine === 2 ? made.find(([first]) => first!.engine === 1 && first!.name === one.name) : undefined
    if (other) other.push(one)
    else made.push([one])
  }
  return made
})
</script>

<template>
  <ul class="column" aria-label="Instruments">
    <li v-for="[i, right] in rows" :key="i!.id" :class="{ pair: right, stop: !right && isOut(i!) }">
      <template v-if="right">
        <span class="figure" :class="{ stop: isOut(i!) }" :aria-label="i!.label">
          {{ display.figure(i!.value, i!.unit) }} <b v-if="WORDS[i!.state]" class="word">{{ WORDS[i!.state] }}</b>
        </span>
        <span class="name">
          {{ i!.name }} <span class="soft">{{ display.label(i!.unit) }}</span> <b v-if="stale">old</b>
        </span>
        <span class="figure" :class="{ stop: isOut(right) }" :aria-label="right.label">
          <b v-if="WORDS[right.state]" class="word">{{ WORDS[right.state] }}</b>
          {{ display.figure(right.value, right.unit) }}
        </span>
        <PairBar :values="[i!.value, right.value]" :low="i!.low" :high="i!.high" />
      </template>
      <template v-else>
        <span class="name">{{ i!.label }}</span>
        <span class="figure">{{ display.figure(i!.value, i!.unit) }}</span>
        <span class="unit"
          >{{ display.label(i!.unit) }} <b v-if="stale">old</b
          ><b v-else-if="WORDS[i!.state]">{{ WORDS[i!.state] }}</b></span
        >
        <BandGauge v-if="i!.low !== null || i!.high !== null" :value="i!.value" :low="i!.low" :high="i!.high" />
      </template>
    </li>
  </ul>
  <button v-if="hasCylinders" type="button" class="plain all" @click="$emit('cylinders')">All cylinders</button>
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
  line-height: 1.2;
  text-align: right;
}
.band,
li svg {
  grid-column: 1 / -1;
}
.pair {
  grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr);
}
.pair .figure:first-child {
  text-align: left;
}
.pair .name {
  text-align: center;
}
.all {
  align-self: flex-start;
  padding: 0;
  text-decoration: underline;
}
.word {
  font-size: 18px;
}
</style>

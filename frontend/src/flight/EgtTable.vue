<script setup lang="ts">
import { ref } from 'vue'
import type { EgtTable } from '@/api/schema'
import NumberPad from '@/parts/NumberPad.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** EGT of each cylinder, typed step by step while the mixture is leaned; the pad goes from one to the next by itself. */
const props = defineProps<{
  /** What was typed, and whose figure is next. */
  table: EgtTable
}>()
const flight = useFlight()
const display = useDisplay()
const isOpen = ref(props.table.rows.length > 0)
const text = ref('')
function take() {
  if (!text.value.trim()) return
  const needle = `egt${props.table.next}_f`
  void flight.event('needle_read', { needle, value: display.toCore(Number(text.value), 'f') })
  text.value = ''
}
const mark = (cylinder: number) =>
  cylinder === props.table.first
    ? 'first'
    : cylinder === props.table.last
      ? 'last'
      : props.table.passed.includes(cylinder)
        ? 'passed'
        : ''
</script>

<template>
  <section class="egts" aria-label="EGT of each cylinder">
    <button v-if="!isOpen" type="button" @click="isOpen = true">EGT of each cylinder</button>
    <template v-else>
      <table>
        <thead>
          <tr>
            <th v-for="c in table.cylinders" :key="c" scope="col" :aria-current="c === table.next || undefined">
              {{ c }} <small>{{ mark(c) }}</small>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, step) in table.rows.slice(-5)" :key="step">
            <td v-for="(egt, place) in row" :key="place">{{ egt === null ? '–' : display.figure(egt, 'f') }}</td>
          </tr>
        </tbody>
      </table>
      <p>
        Cylinder {{ table.next }}: <b>{{ text || '–' }}</b> {{ display.label('f') }}
      </p>
      <NumberPad v-model="text" @done="take" />
    </template>
  </section>
</template>

<style scoped>
.egts {
  display: grid;
  gap: 6px;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
th,
td {
  padding: 2px 4px;
  text-align: right;
}
th[aria-current] {
  background: var(--ink);
  color: var(--paper);
}
th small {
  display: block;
  font-size: 16px;
  font-weight: 400;
}
p {
  margin: 0;
  font-size: var(--mid);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { AirLine, TakeOffWatch } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** What is to be said while flying: the figures of a take-off that is being made, then one line for each thing that matters. */
const props = defineProps<{
  /** What the core says, most of it quiet. */
  lines: AirLine[]
  /** The take-off that is being made, or null. */
  takeOff: TakeOffWatch | null
}>()
const display = useDisplay()
const shown = (value: number | null, unit: string) => display.figure(value, unit)
const band = (row: TakeOffWatch['rows'][number]) =>
  row.low !== null && row.high !== null
    ? `${shown(row.low, row.unit)} to ${shown(row.high, row.unit)}`
    : row.low !== null
      ? `at least ${shown(row.low, row.unit)}`
      : `at most ${shown(row.high, row.unit)}`
const loudFirst = computed(() => [...props.lines].sort((a, b) => Number(b.kind === 'look') - Number(a.kind === 'look')))
</script>

<template>
  <div class="air" aria-label="In the air">
    <p v-if="takeOff?.stop" class="alarm stop" role="alert">
      <b>{{ display.sentence(takeOff.stop) }}</b>
    </p>
    <dl v-if="takeOff" class="rows">
      <div v-for="row in takeOff.rows" :key="row.name" :class="{ stop: row.ok === false }">
        <dt>{{ row.name }}</dt>
        <dd>
          <b>{{ shown(row.value, row.unit) }}</b> {{ display.label(row.unit) }}
          <span class="soft">{{ band(row) }}</span>
          {{ row.ok === null ? '' : row.ok ? '✓' : '✗' }}
        </dd>
      </div>
    </dl>
    <p v-for="line in loudFirst" :key="line.id" :class="line.kind">
      <b v-if="line.kind === 'look'">{{ display.sentence(line.say) }}</b>
      <template v-else>{{ display.sentence(line.say) }}</template>
    </p>
  </div>
</template>

<style scoped>
.air {
  display: grid;
  gap: 4px;
}
.alarm {
  padding: 6px 10px;
}
.rows {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 2px 18px;
  margin: 0;
}
.rows div {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
dd {
  margin: 0;
}
</style>

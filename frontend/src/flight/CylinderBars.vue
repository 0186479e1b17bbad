<script setup lang="ts">
import { computed } from 'vue'
import type { EngineCylinders } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** Every cylinder of every engine: EGT and CHT as bars with their figures, the highest CHT and the odd EGT marked and named. */
const props = defineProps<{
  /** The engines, each with its cylinders. */
  engines: EngineCylinders[]
}>()
const display = useDisplay()
const all = computed(() => props.engines.flatMap((engine) => engine.cylinders))
const known = (values: (number | null)[]) => values.filter((value) => value !== null)
/** From where to where the bars go, so that a few degrees apart are seen. */
const scales = computed(() => {
  const span = (values: number[], least: number) => {
    const low = Math.min(...values)
    const high = Math.max(...values, low + least)
    return { from: low - (high - low) * 0.4, to: high + (high - low) * 0.05 }
  }
  return {
    egt: span(known(all.value.map((one) => one.egt_f)), 150),
    cht: span(known(all.value.map((one) => one.cht_f)), 60),
  }
})
function width(value: number | null, of: 'egt' | 'cht') {
  if (value === null) return '0'
  const { from, to } = scales.value[of]
  return `${Math.min(Math.max(((value - from) / (to - from)) * 100, 0), 100)}%`
}
</script>

<template>
  <section v-for="engine in engines" :key="engine.engine" :aria-label="engine.name || 'Cylinders'">
    <h3 v-if="engine.name">{{ engine.name }}</h3>
    <p>
      <b>{{ display.sentence(engine.say) }}</b>
    </p>
    <table>
      <thead>
        <tr>
          <th scope="col"><span class="unseen">Cylinder</span></th>
          <th scope="col">EGT {{ display.label('f') }}</th>
          <th scope="col">CHT {{ display.label('f') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in engine.cylinders" :key="one.number">
          <th scope="row">{{ one.number }}</th>
          <td>
            <span
              class="bar"
              :class="{ marked: one.number === engine.odd }"
              :style="{ width: width(one.egt_f, 'egt') }"
            />
            <span class="figure">{{ display.figure(one.egt_f, 'f') }}{{ one.number === engine.odd ? ' ◆' : '' }}</span>
          </td>
          <td>
            <span
              class="bar"
              :class="{ marked: one.number === engine.hottest }"
              :style="{ width: width(one.cht_f, 'cht') }"
            />
            <span class="figure"
              >{{ display.figure(one.cht_f, 'f') }}{{ one.number === engine.hottest ? ' ▲' : '' }}</span
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="engine.cht_act_f !== null" class="soft">Act at a CHT of {{ display.withUnit(engine.cht_act_f, 'f') }}.</p>
  </section>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  margin-top: 6px;
}
th {
  text-align: left;
  padding-right: 8px;
  width: 2.5em;
}
thead th {
  width: auto;
}
td {
  position: relative;
  height: 36px;
  padding: 0 6px 0 0;
}
.bar {
  position: absolute;
  left: 0;
  top: 4px;
  bottom: 4px;
  background: var(--line);
}
.bar.marked {
  outline: 2px solid var(--ink);
  outline-offset: -2px;
}
.figure {
  position: relative;
  padding-left: 8px;
  font-weight: 700;
}
h3 {
  font-size: 22px;
  margin-top: 12px;
}
.unseen {
  position: absolute;
  clip-path: inset(50%);
}
</style>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import type { StartRow } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'
import UseSwitch from './UseSwitch.vue'

/** The starts of an aircraft: every one as a row, what it took over the temperature, and the seconds to oil pressure. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const practice = ref<boolean>()
const {
  answer: starts,
  problem,
  ask,
} = useAnswer(() => {
  const query = practice.value === undefined ? {} : { practice: practice.value }
  return answer(api.GET('/api/aircraft/{profile_id}/starts', { params: { ...params, query } }))
})
watch(practice, ask)
const newest = computed(() => [...(starts.value?.rows ?? [])].reverse())
const toShown = (celsius: number) => display.number(celsius * 1.8 + 32, 'f')
/** Points of the starts and lines of book and advice over one axis of temperature. */
const plot = computed(() => {
  const points = (starts.value?.rows ?? []).filter((r) => r.metal_c !== null && r.amount !== null)
  const lines = starts.value?.lines ?? []
  const all = [
    ...lines.map((l) => [toShown(l.metal_c), l.book, l.advised, null, null] as (number | null)[]),
    ...points.map(
      (p) => [toShown(p.metal_c!), null, null, p.ran ? p.amount : null, p.ran ? null : p.amount] as (number | null)[],
    ),
  ].sort((a, b) => a[0]! - b[0]!)
  return [0, 1, 2, 3, 4].map((column) => all.map((row) => row[column]!))
})
const oil = computed(() => {
  const rows = (starts.value?.rows ?? []).filter((r) => r.oil_s !== null)
  return [rows.map((_, n) => n + 1), rows.map((r) => r.oil_s), rows.map(() => starts.value!.oil_limit_s)]
})
const text = (value: number | null, digits = 0, unit = '') => (value === null ? '–' : `${value.toFixed(digits)}${unit}`)
const temp = (row: StartRow) =>
  row.metal_c === null ? '–' : `${Math.round(toShown(row.metal_c))} ${display.label('f')}`
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: starts?.aircraft.registration }"
    :gauges="starts?.aircraft"
    title="Starts"
    :problem="problem"
    :waiting="!starts"
  >
    <template v-if="starts">
      <UseSwitch v-model="practice" :use="starts.use" />
      <div v-if="starts.rows.length" class="plots">
        <section v-if="starts.lines.length" class="plot">
          <h2>Prime against the temperature</h2>
          <div class="drawn">
            <LiveTrace
              :data="plot"
              :lines="[
                { label: 'Book', scale: 'y', dash: [8, 6] },
                { label: 'Advised today', scale: 'y', width: 3 },
                { label: 'It ran', scale: 'y', points: true },
                { label: 'It did not', scale: 'y', crosses: true },
              ]"
              :axis="{ x: `Metal ${display.label('f')}`, y: starts.unit }"
              label="Prime of each start over the temperature of the metal, with the book's line and today's advice"
            />
          </div>
        </section>
        <section class="plot">
          <h2>Seconds to oil pressure</h2>
          <div class="drawn">
            <LiveTrace
              :data="oil"
              :lines="[
                { label: 'Seconds to oil pressure', scale: 'y', width: 3 },
                { label: 'Limit', scale: 'y', dash: [8, 6] },
              ]"
              :axis="{ x: 'Start', y: 's to oil pressure', counted: true }"
              label="Seconds from first fire to oil pressure, start by start, with the limit"
            />
          </div>
        </section>
      </div>
      <p v-if="starts.rows.length" class="soft">
        {{
          starts.lines.length
            ? 'Prime: dashed the book, line what is advised today, a circle a start, a cross one that did not run. '
            : ''
        }}Oil pressure: dashed the limit. {{ starts.looks_back }}
      </p>
      <el-table
        :data="newest"
        :row-class-name="({ row }: { row: StartRow }) => (row.ran ? '' : 'failed')"
        empty-text="No starts are recorded yet"
      >
        <el-table-column label="When" min-width="120">
          <template #default="{ row }"
            ><RouterLink :to="`/records/${row.flight}`">{{ row.day }}</RouterLink></template
          >
        </el-table-column>
        <el-table-column v-if="starts.engines.length > 1" label="Engine" min-width="120">
          <template #default="{ row }">{{ starts!.engines[row.engine - 1] }}</template>
        </el-table-column>
        <el-table-column label="Metal" align="right" min-width="90"
          ><template #default="{ row }">{{ temp(row) }}</template></el-table-column
        >
        <el-table-column :label="`Prime (${starts.unit})`" align="right" min-width="120"
          ><template #default="{ row }">{{ text(row.amount) }}</template></el-table-column
        >
        <el-table-column label="Tries" prop="attempts" align="right" min-width="70" />
        <el-table-column label="Cranked" align="right" min-width="90"
          ><template #default="{ row }">{{ text(row.cranking_s, 1, ' s') }}</template></el-table-column
        >
        <el-table-column label="Lowest volts" align="right" min-width="110"
          ><template #default="{ row }">{{ text(row.volts_v, 1, ' V') }}</template></el-table-column
        >
        <el-table-column label="Oil pressure after" align="right" min-width="140"
          ><template #default="{ row }">{{ text(row.oil_s, 0, ' s') }}</template></el-table-column
        >
        <el-table-column label="Ran" min-width="130"
          ><template #default="{ row }">
            <template v-if="row.ran">✓</template>
            <b v-else class="look">✕ did not run</b>
          </template></el-table-column
        >
      </el-table>
    </template>
  </PageFrame>
</template>

<style scoped>
.plots {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
}
.plot {
  flex: 1 1 420px;
}
.drawn {
  position: relative;
  height: 280px;
}
h2 {
  font-size: var(--mid);
  margin: 8px 0;
}
:deep(.failed td:first-child) {
  border-left: 6px solid var(--look);
}
</style>

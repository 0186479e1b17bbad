<script setup lang="ts">
import { computed } from 'vue'
import type { Plan, Setting } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { hours } from './clock'

/** The settings that give the power asked for, with speed, endurance and range. */
const props = defineProps<{
  /** The plan. */
  plan: Plan
  /** The power asked for, as typed, %. */
  pct: string
}>()
const display = useDisplay()
const hasGauge = computed(() => props.plan.rows.some((row) => row.map_inhg !== null))
const gal = (value: number) => `${display.figure(value, 'gal')} ${display.label('gal')}`
const flow = (row: Setting) => display.figure(row.ff_gph, 'gph')
</script>

<template>
  <section aria-label="Settings">
    <h2>For {{ pct }} % at a density altitude of {{ display.withUnit(plan.density_altitude_ft, 'ft') }}</h2>
    <p v-if="!plan.rows.length">
      No setting that the type allows gives this power here: full throttle gives less, or the type has no table.
    </p>
    <el-table v-else :data="plan.rows">
      <el-table-column label="RPM" align="right" min-width="62">
        <template #default="{ row }">{{ display.figure(row.rpm, 'rpm') }}</template>
      </el-table-column>
      <el-table-column v-if="hasGauge" :label="`Manifold ${display.label('inhg')}`" align="right" min-width="94">
        <template #default="{ row }">{{ display.figure(row.map_inhg, 'inhg') }}</template>
      </el-table-column>
      <el-table-column
        :label="`Flow ${display.label('gph')}${plan.engines > 1 ? ' each' : ''}`"
        align="right"
        min-width="64"
      >
        <template #default="{ row }">{{ flow(row) }}</template>
      </el-table-column>
      <el-table-column :label="`Speed ${display.label('kt')}`" align="right" min-width="72">
        <template #default="{ row }">{{ display.figure(row.tas_kt, 'kt') }}</template>
      </el-table-column>
      <el-table-column label="Hours" align="right" min-width="68">
        <template #default="{ row }">{{ hours(row.endurance_h) }}</template>
      </el-table-column>
      <el-table-column v-if="plan.budget" label="Usable" align="right" min-width="82">
        <template #default="{ row }">{{ hours(row.to_reserve_h) }}</template>
      </el-table-column>
      <el-table-column label="Range nm" align="right" min-width="72">
        <template #default="{ row }">{{ row.range_nm ?? '–' }}</template>
      </el-table-column>
      <el-table-column label="" min-width="100">
        <template #default="{ row }"
          ><span class="soft">{{ row.remark }}</span></template
        >
      </el-table-column>
    </el-table>
    <p v-if="plan.budget" :class="plan.budget.cruise_gal < 0 ? 'stop' : ''">
      Of {{ gal(plan.budget.on_board_gal) }}: taxi {{ gal(plan.budget.taxi_gal) }}, climb
      {{ gal(plan.budget.climb_gal) }}, reserve {{ gal(plan.budget.reserve_gal) }} ({{ plan.budget.reserve_min }} min),
      <b>cruise {{ gal(plan.budget.cruise_gal) }}</b
      >.
      <template v-if="plan.budget.cruise_gal < 0">It does not reach.</template>
    </p>
    <p v-if="plan.assumed.length" class="look">Taken for granted: {{ display.sentence(plan.assumed.join('; ')) }}.</p>
    <p class="soft">
      Hours and range are of all the fuel, usable is until the reserve, wind as given. Your handbook’s figures come
      first.
    </p>
  </section>
</template>

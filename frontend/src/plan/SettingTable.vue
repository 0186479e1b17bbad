<script setup lang="ts">
import type { Plan, Setting } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { hours } from './clock'

/** The settings that give the power asked for, with speed, endurance and range. */
defineProps<{
  /** The plan. */
  plan: Plan
  /** The power asked for, as typed, %. */
  pct: string
}>()
const display = useDisplay()
const flow = (row: Setting) => display.figure(row.ff_gph, 'gph')
</script>

<template>
  <section aria-label="Settings">
    <h2>For {{ pct }} % at a density altitude of {{ plan.density_altitude_ft }} ft</h2>
    <p v-if="!plan.rows.length">
      No setting that the type allows gives this power here: full throttle gives less, or the type has no table.
    </p>
    <el-table v-else :data="plan.rows">
      <el-table-column prop="rpm" label="RPM" align="right" min-width="64" />
      <el-table-column :label="`Manifold ${display.label('inhg')}`" align="right" min-width="98">
        <template #default="{ row }">{{ display.figure(row.map_inhg, 'inhg') }}</template>
      </el-table-column>
      <el-table-column
        :label="`Flow ${display.label('gph')}${plan.engines > 1 ? ' each' : ''}`"
        align="right"
        min-width="80"
      >
        <template #default="{ row }">{{ flow(row) }}</template>
      </el-table-column>
      <el-table-column label="Speed kt" align="right" min-width="70">
        <template #default="{ row }">{{ row.tas_kt ?? '–' }}</template>
      </el-table-column>
      <el-table-column label="Hours" align="right" min-width="72">
        <template #default="{ row }">{{ hours(row.endurance_h) }}</template>
      </el-table-column>
      <el-table-column label="Range nm" align="right" min-width="74">
        <template #default="{ row }">{{ row.range_nm ?? '–' }}</template>
      </el-table-column>
      <el-table-column label="" min-width="140">
        <template #default="{ row }"
          ><span class="soft">{{ row.remark }}</span></template
        >
      </el-table-column>
    </el-table>
    <p class="soft">Endurance and range without reserve, climb or taxi. Your handbook’s figures come first.</p>
  </section>
</template>

<script setup lang="ts">
import type { TankSchedule } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { clock } from './clock'

/** When to change tanks, and when the reserve is reached. */
defineProps<{
  /** The schedule. */
  tanks: TankSchedule
}>()
const display = useDisplay()
</script>

<template>
  <section aria-label="Tanks">
    <h2>Tanks at {{ display.figure(tanks.ff_gph, 'gph') }} {{ display.label('gph') }}</h2>
    <el-table :data="tanks.changes">
      <el-table-column label="After" align="right" width="90">
        <template #default="{ row }">{{ clock(row.minutes) }}</template>
      </el-table-column>
      <el-table-column prop="tank" label="To tank" min-width="90" />
      <el-table-column :label="`In it ${display.label('gal')}`" align="right" min-width="100">
        <template #default="{ row }">{{ display.figure(row.left_gal, 'gal') }}</template>
      </el-table-column>
    </el-table>
    <p>
      Reserve of {{ tanks.reserve_min }} min reached after <b>{{ clock(tanks.reserve_minutes) }}</b>.
    </p>
    <p class="soft">
      At the highest fuel flow above, fuel spread evenly, without climb or taxi. Dip the tanks: gauges and plans are
      wrong at times.
    </p>
  </section>
</template>

<script setup lang="ts">
import type { ClimbRow } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** The climb to the planned altitude, a row each thousand feet or so. */
defineProps<{
  /** Its rows. */
  rows: ClimbRow[]
}>()
const display = useDisplay()
</script>

<template>
  <section aria-label="Climb">
    <h2>Climb</h2>
    <el-table :data="rows">
      <el-table-column label="To ft" align="right" min-width="70">
        <template #default="{ row }">{{ display.figure(row.palt_ft, 'ft') }}</template>
      </el-table-column>
      <el-table-column label="Rate ft/min" align="right" min-width="72">
        <template #default="{ row }">{{ display.figure(row.rate_fpm, 'fpm') }}</template>
      </el-table-column>
      <el-table-column label="Minutes" align="right" min-width="88">
        <template #default="{ row }">{{ row.minutes.toFixed(1) }}</template>
      </el-table-column>
      <el-table-column :label="`Fuel ${display.label('gal')}`" align="right" min-width="80">
        <template #default="{ row }">{{ display.figure(row.fuel_gal, 'gal') }}</template>
      </el-table-column>
      <el-table-column label="Way nm" align="right" min-width="64">
        <template #default="{ row }">{{ row.distance_nm.toFixed(1) }}</template>
      </el-table-column>
    </el-table>
  </section>
</template>

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
      <el-table-column prop="palt_ft" label="To ft" align="right" min-width="70" />
      <el-table-column prop="rate_fpm" label="Rate ft/min" align="right" min-width="72" />
      <el-table-column prop="minutes" label="Minutes" align="right" min-width="88" />
      <el-table-column :label="`Fuel ${display.label('gal')}`" align="right" min-width="80">
        <template #default="{ row }">{{ display.figure(row.fuel_gal, 'gal') }}</template>
      </el-table-column>
      <el-table-column prop="distance_nm" label="Way nm" align="right" min-width="64" />
    </el-table>
  </section>
</template>

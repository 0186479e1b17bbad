<script setup lang="ts">
import type { ShownFigure, ShownFinding } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { clock } from './words'

/** What was within its limits, a row a check: when, its figures, and what they were held against. */
defineProps<{
  /** Findings that are within. */
  findings: ShownFinding[]
}>()
const display = useDisplay()
const shown = (f: ShownFigure) =>
  display.figure(f.value, f.unit) +
  (f.plus_minus === null ? '' : ` ± ${display.difference(f.plus_minus, f.unit)}`) +
  ` ${display.label(f.unit)}`
const held = (f: ShownFigure) =>
  [
    f.most === null ? '' : `at most ${display.withUnit(f.most, f.unit)}`,
    f.least === null ? '' : `at least ${display.withUnit(f.least, f.unit)}`,
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <el-table :data="findings" row-key="event">
    <el-table-column label="Check" prop="title" min-width="150" />
    <el-table-column label="At" min-width="80">
      <template #default="{ row }">{{ clock(row.start_s) }}</template>
    </el-table-column>
    <el-table-column label="Figures" min-width="320">
      <template #default="{ row }">
        <span v-for="f in row.figures" :key="f.title" class="figure">
          {{ f.title }} <b>{{ shown(f) }}</b> <span class="soft">{{ held(f) }}</span>
        </span>
      </template>
    </el-table-column>
    <el-table-column label="What it says" min-width="320">
      <template #default="{ row }">
        {{ display.sentence(row.because) }} <span class="soft">Source: {{ row.source }}</span>
      </template>
    </el-table-column>
  </el-table>
</template>

<style scoped>
.figure {
  display: block;
}
</style>

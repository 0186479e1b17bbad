<script setup lang="ts">
import type { Named } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import type { Asked } from './asked'

/** What a plan is asked for: the power, where, in which air, with how much fuel, how lean. */
const asked = defineModel<Asked>({ required: true })
defineProps<{
  /** The ways to lean that the type has. */
  targets: Named[]
}>()
const display = useDisplay()
const FIELDS: [Exclude<keyof Asked, 'target'>, string, string][] = [
  ['pct', 'Power', 'pct'],
  ['palt_ft', 'Pressure altitude', 'ft'],
  ['oat_c', 'Outside', 'c'],
  ['fuel', 'Fuel on board', 'gal'],
  ['wind_kt', 'Wind along, tail +', 'kt'],
]
</script>

<template>
  <el-form class="asked" label-position="top" size="large" @submit.prevent>
    <el-form-item v-for="[name, title, own] in FIELDS" :key="name">
      <template #label>
        {{ title }} <span class="soft">{{ display.label(own) }}</span>
      </template>
      <el-input v-model="asked[name]" inputmode="decimal" :aria-label="title" autocomplete="off" />
    </el-form-item>
    <el-form-item label="Mixture of the cruise" class="wide">
      <el-select v-model="asked.target" aria-label="Mixture of the cruise" placeholder="Best power" :teleported="false">
        <el-option value="" label="Best power" />
        <el-option v-for="t in targets" :key="t.id" :value="t.id" :label="display.sentence(t.title)" />
      </el-select>
    </el-form-item>
  </el-form>
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  align-items: end;
}
.asked .el-form-item {
  width: 176px;
}
.asked .wide {
  width: 260px;
}
@media (max-width: 600px) {
  .asked .el-form-item {
    width: calc(50% - 9px);
  }
  .asked .wide {
    width: 100%;
  }
}
@media print {
  .asked {
    display: none;
  }
}
</style>

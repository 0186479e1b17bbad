<script setup lang="ts">
import { computed } from 'vue'
import type { FormField } from '@/api/schema'
import FieldInput from './FieldInput.vue'
import type { Json, JsonObject } from './json'
import type { Draft } from './useDraft'
import { wrongBeside } from './wrong'

/** Which instruments are shown in which phase. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
}>()
const phases = computed(() => (props.draft.at('phases') as JsonObject[] | undefined) ?? [])
const field = (title: string): FormField => ({
  ...{ name: 'instruments', title, kind: 'names', unit: '', menu: 'readings', options: [], may_be_empty: false },
})
const put = (at: number, given: Json | undefined) => props.draft.set(`phases.${at}.instruments`, given ?? [])
</script>

<template>
  <div class="fields">
    <FieldInput
      v-for="(phase, at) in phases"
      :key="String(phase.id)"
      :field="field(String(phase.title))"
      :menus="draft.page.value!.menus"
      :model-value="phase.instruments"
      :wrong="wrongBeside(draft, `phases.${at}.instruments`)"
      @update:model-value="(given) => put(at, given)"
    />
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
}
</style>

<script setup lang="ts">
import type { FormField, FormSection } from '@/api/schema'
import FieldInput from './FieldInput.vue'
import type { Draft } from './useDraft'
import { wrongBeside } from './wrong'

/** A section of single fields. */
defineProps<{
  /** The section. */
  section: FormSection
  /** What is being written. */
  draft: Draft
}>()
const path = (section: FormSection, field: FormField) => (section.path ? `${section.path}.${field.name}` : field.name)
</script>

<template>
  <div class="fields">
    <FieldInput
      v-for="field in section.fields"
      :key="field.name"
      :field="field"
      :menus="draft.page.value!.menus"
      :model-value="draft.at(path(section, field))"
      :wrong="wrongBeside(draft, path(section, field))"
      @update:model-value="(given) => draft.set(path(section, field), given)"
    />
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 12px 18px;
}
</style>

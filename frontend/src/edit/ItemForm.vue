<script setup lang="ts">
import { computed } from 'vue'
import type { FormField } from '@/api/schema'
import FieldInput from './FieldInput.vue'
import type { Json, JsonObject } from './json'
import type { Draft } from './useDraft'
import { wrongBeside } from './wrong'

/** One item of a list: what is read and done, and below it what only some items have. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
  /** Where the item is (`phases.0.lists.1.items.2`). */
  path: string
  /** Whether its list is locked. */
  locked: boolean
}>()
const page = computed(() => props.draft.page.value!)
const first = computed(() => page.value.item_fields.slice(0, 3))
const more = computed(() => page.value.item_fields.slice(3))
const part = (field: FormField, of: string) => `${props.path}${of}.${field.name}`
/** A part without its first field is removed. */
function put(field: FormField, of: 'reading' | 'measure', given: Json | undefined) {
  const now = (props.draft.at(`${props.path}.${of}`) as JsonObject | undefined) ?? {}
  const made: JsonObject = { ...now }
  if (given === undefined) delete made[field.name]
  else made[field.name] = given
  const first = of === 'reading' ? 'signal' : 'title'
  if (of === 'measure' && made.title !== undefined && made.unit === undefined) made.unit = 'rpm'
  props.draft.set(`${props.path}.${of}`, made[first] === undefined ? undefined : made)
}
</script>

<template>
  <div class="item">
    <FieldInput
      v-for="field in first"
      :key="field.name"
      :field="field"
      :menus="page.menus"
      :locked="locked"
      :model-value="draft.at(part(field, ''))"
      :wrong="wrongBeside(draft, part(field, ''))"
      @update:model-value="(given) => draft.set(part(field, ''), given)"
    />
    <details :open="!!wrongBeside(draft, path)">
      <summary>More: where it is, conditions, clocks, what data show it</summary>
      <p v-if="wrongBeside(draft, path)" class="stop">{{ wrongBeside(draft, path) }}</p>
      <div class="fields">
        <FieldInput
          v-for="field in more"
          :key="field.name"
          :class="{ whole: field.kind === 'conditions' }"
          :field="field"
          :menus="page.menus"
          :locked="locked"
          :model-value="draft.at(part(field, ''))"
          :wrong="wrongBeside(draft, part(field, ''))"
          @update:model-value="(given) => draft.set(part(field, ''), given)"
        />
      </div>
      <template v-for="of in ['reading', 'measure'] as const" :key="of">
        <h4>{{ of === 'reading' ? 'What data show it' : 'A figure that is typed' }}</h4>
        <div class="fields">
          <FieldInput
            v-for="field in of === 'reading' ? page.reading_fields : page.measure_fields"
            :key="field.name"
            :field="field"
            :menus="page.menus"
            :locked="locked"
            :model-value="draft.at(part(field, `.${of}`))"
            :wrong="wrongBeside(draft, part(field, `.${of}`))"
            @update:model-value="(given) => put(field, of, given)"
          />
        </div>
      </template>
    </details>
  </div>
</template>

<style scoped>
.item {
  display: grid;
  gap: 10px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 10px 14px;
}
.whole {
  grid-column: 1 / -1;
}
h4 {
  margin: 14px 0 4px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { FormSection } from '@/api/schema'
import FieldInput from './FieldInput.vue'
import { type JsonObject, free, moved } from './json'
import type { Draft } from './useDraft'
import { wrongBeside, wrongWithin } from './wrong'

/** A section of rows: each can be changed, moved, taken away; a new one at the end. */
const props = defineProps<{
  /** The section. */
  section: FormSection
  /** What is being written. */
  draft: Draft
}>()
const rows = computed(() => (props.draft.at(props.section.path) as JsonObject[] | undefined) ?? [])
const put = (made: JsonObject[]) => props.draft.set(props.section.path, made)
/** A new row: what must be there begins empty, an id is one that nothing has. */
function add() {
  const made: JsonObject = {}
  for (const field of props.section.fields)
    if (!field.may_be_empty)
      made[field.name] =
        field.kind === 'figure'
          ? 0
          : field.kind === 'lines'
            ? ['']
            : (field.options[0]?.id ?? (field.menu === 'sources' ? 'type' : ''))
  if ('id' in made) made.id = free(props.section.id, new Set(rows.value.map((row) => String(row.id))))
  put([...rows.value, made])
}
const isWide = computed(
  () => props.section.fields.some((field) => field.kind === 'lines') || props.section.fields.length > 5,
)
</script>

<template>
  <ol class="rows" :class="{ wide: isWide }">
    <li v-for="(row, at) in rows" :key="at" :class="{ bad: wrongWithin(draft, `${section.path}.${at}`) }">
      <div class="cells">
        <FieldInput
          v-for="field in section.fields"
          :key="field.name"
          :field="field"
          :menus="draft.page.value!.menus"
          :model-value="row[field.name]"
          :wrong="wrongBeside(draft, `${section.path}.${at}.${field.name}`)"
          @update:model-value="(given) => draft.set(`${section.path}.${at}.${field.name}`, given)"
        />
      </div>
      <p v-if="wrongBeside(draft, `${section.path}.${at}`)" class="stop">
        {{ wrongBeside(draft, `${section.path}.${at}`) }}
      </p>
      <p class="tools">
        <button
          type="button"
          :disabled="at === 0"
          :aria-label="`Row ${at + 1} up`"
          @click="put(moved(rows, at, at - 1))"
        >
          ↑
        </button>
        <button
          type="button"
          :disabled="at === rows.length - 1"
          :aria-label="`Row ${at + 1} down`"
          @click="put(moved(rows, at, at + 1))"
        >
          ↓
        </button>
        <button type="button" :aria-label="`Remove row ${at + 1}`" @click="put(rows.toSpliced(at, 1))">Remove</button>
      </p>
    </li>
  </ol>
  <p v-if="!rows.length" class="soft">None yet.</p>
  <p><button type="button" @click="add">Add a row</button></p>
</template>

<style scoped>
.rows {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
  display: grid;
  gap: 10px;
}
.cells {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 8px 12px;
}
.wide .cells {
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
}
.wide .cells > :deep(.lines) {
  grid-column: 1 / -1;
}
li {
  border-bottom: 1px solid var(--line);
  padding-bottom: 8px;
}
.tools {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import type { FormField, LimitRowShown } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { speaksOf } from '@/parts/search'
import FieldInput from './FieldInput.vue'
import type { JsonObject } from './json'
import type { Draft } from './useDraft'
import { wrongBeside } from './wrong'

/** Every limit of the aircraft, with its source and a word; one that it has not can be added. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
}>()
const display = useDisplay()
const wanted = ref('')
const limits = computed(() => (props.draft.at('limits') as JsonObject | undefined) ?? {})
const all = computed(() => props.draft.page.value!.limits)
const shown = computed(() => all.value.filter((row) => row.name in limits.value && speaksOf(wanted.value, row.title)))
const absent = computed(() => all.value.filter((row) => !(row.name in limits.value)))
const signed = computed(() => new Map(props.draft.page.value!.signed.map((one) => [one.limit, one])))
const value = (row: LimitRowShown): FormField => field('value', 'Value', 'figure', row.unit)
const SOURCE = field('source', 'Source', 'choice', '', 'sources')
const NOTE = field('note', 'Where it comes from', 'text')
function field(name: string, title: string, kind: FormField['kind'], unit = '', menu = ''): FormField {
  return { name, title, kind, unit, menu, options: [], may_be_empty: false }
}
const range = (row: LimitRowShown) =>
  `${display.figure(row.lowest, row.unit)} to ${display.withUnit(row.highest, row.unit)}`
function add(name: string) {
  const row = all.value.find((one) => one.name === name)!
  props.draft.set(`limits.${name}`, { value: row.lowest, source: 'type', note: 'the handbook' })
  wanted.value = row.title
}
</script>

<template>
  <div class="above">
    <label>Find a limit <el-input v-model="wanted" size="large" clearable /></label>
    <label
      >Add a limit
      <el-select :model-value="''" aria-label="Add a limit" size="large" filterable @update:model-value="add">
        <el-option v-for="row in absent" :key="row.name" :value="row.name" :label="`${row.title} (${row.phase})`" />
      </el-select>
    </label>
  </div>
  <div v-for="row in shown" :key="row.name" class="limit">
    <p>
      <b>{{ row.title }}</b>{{ ' ' }}
      <small class="soft">
        {{ row.phase }}; such figures lie within {{ range(row) }}.
        {{ signed.get(row.name) ? `Signed by ${signed.get(row.name)!.who}, ${signed.get(row.name)!.signed_on}.` : '' }}
      </small>
    </p>
    <FieldInput
      v-for="one in [value(row), SOURCE, NOTE]"
      :key="one.name"
      :field="one"
      :menus="draft.page.value!.menus"
      :model-value="draft.at(`limits.${row.name}.${one.name}`)"
      :wrong="wrongBeside(draft, `limits.${row.name}.${one.name}`)"
      @update:model-value="(given) => draft.set(`limits.${row.name}.${one.name}`, given)"
    />
    <button type="button" :aria-label="`Remove ${row.title}`" @click="draft.set(`limits.${row.name}`, undefined)">
      Remove
    </button>
  </div>
</template>

<style scoped>
.above {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin-bottom: 12px;
}
.above label {
  flex: 1 1 240px;
}
.limit {
  display: grid;
  grid-template-columns: 150px 200px minmax(0, 1fr) auto;
  gap: 4px 12px;
  align-items: start;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.limit > button {
  margin-top: 26px; /* beside the fields, below the height of their titles */
}
.limit > p {
  grid-column: 1 / -1;
}
@media (max-width: 800px) {
  .limit {
    grid-template-columns: 1fr;
  }
}
</style>

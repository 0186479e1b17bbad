<script setup lang="ts">
import { computed, ref } from 'vue'
import type { FormField } from '@/api/schema'
import FieldInput from './FieldInput.vue'
import type { JsonObject } from './json'
import type { Draft } from './useDraft'

/** What a list is as a whole: its title, how it is read, when it is read; a school's lock. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
  /** Where the list is (`phases.0.lists.1`). */
  path: string
}>()
const list = computed(() => props.draft.at(props.path) as JsonObject)
const isLocked = computed(() => typeof list.value.locked === 'string')
const LIST_FIELDS: FormField[] = [
  { name: 'title', title: 'Title', kind: 'text', may_be_empty: false },
  {
    name: 'style',
    title: 'Who answers',
    kind: 'choice',
    may_be_empty: true,
    options: [
      { id: 'read_do', title: 'Read and do' },
      { id: 'flow_verify', title: 'Flow, then read' },
      { id: 'two', title: 'Two people: one reads, one answers' },
    ],
  },
  { name: 'flow', title: 'Areas of the flow, one a line', kind: 'lines', may_be_empty: true },
  { name: 'memory', title: 'By heart: confirmed as a whole', kind: 'flag', may_be_empty: true },
  { name: 'each_engine', title: 'Once for each engine', kind: 'flag', may_be_empty: true },
  { name: 'only_if', title: 'Only if', kind: 'conditions', menu: 'facts', may_be_empty: true },
].map((one) => ({ unit: '', menu: '', options: [], ...one }) as FormField)

const lock = (who: string | undefined) => props.draft.set(`${props.path}.locked`, who)
const lockedBy = ref('')
</script>

<template>
  <details class="about">
    <summary>About this list{{ isLocked ? `: locked by ${list.locked}` : '' }}</summary>
    <div class="fields">
      <FieldInput
        v-for="field in LIST_FIELDS"
        :key="field.name"
        :field="field"
        :menus="draft.page.value!.menus"
        :locked="isLocked"
        :model-value="draft.at(`${path}.${field.name}`)"
        @update:model-value="(given) => draft.set(`${path}.${field.name}`, given)"
      />
    </div>
    <p v-if="isLocked">
      <button type="button" @click="lock(undefined)">Unlock this list</button>
      <span class="soft"> Save that as a version, then change it.</span>
    </p>
    <p v-else class="lock">
      <label>A school’s list is locked by <el-input v-model="lockedBy" size="large" placeholder="Name" /></label>
      <button type="button" :disabled="!lockedBy.trim()" @click="lock(lockedBy.trim())">Lock this list</button>
    </p>
  </details>
</template>

<style scoped>
.about {
  margin: 6px 0;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(240px, 1fr));
  gap: 10px 14px;
}
.lock {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
}
</style>

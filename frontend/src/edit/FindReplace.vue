<script setup lang="ts">
import { computed, ref } from 'vue'
import { type JsonObject, counted, replaced } from './json'
import type { Draft } from './useDraft'

/** Find a text in all lists and cards, and put another in its place, in one step that can be undone. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
}>()
const TEXTS = new Set(['title', 'challenge', 'response', 'why', 'caution', 'where', 'mistaken_for', 'say', 'back'])
const find = ref('')
const by = ref('')
const found = computed(() => counted(props.draft.body.value.phases ?? [], find.value, TEXTS))
function replaceAll() {
  const next: JsonObject = { ...props.draft.body.value }
  next.phases = replaced(next.phases ?? [], find.value, by.value, TEXTS)
  props.draft.change(next, '')
}
</script>

<template>
  <details>
    <summary>Find and replace in all lists</summary>
    <p class="row">
      <label>Find <el-input v-model="find" size="large" /></label>
      <label>Replace by <el-input v-model="by" size="large" /></label>
      <button type="button" :disabled="!found" @click="replaceAll">Replace {{ found }}</button>
    </p>
  </details>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
}
.row label {
  flex: 1 1 200px;
}
</style>

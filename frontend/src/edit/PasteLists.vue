<script setup lang="ts">
import { computed, ref } from 'vue'
import { answer, api } from '@/api/client'
import type { MatchedLine } from '@/api/schema'
import { useSending } from '@/api/useAnswer'
import type { Draft } from './useDraft'

/** Lists as text: out as Markdown, in from Markdown or from lines pasted from anywhere; each line says how it was matched. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
}>()
const text = ref('')
const instead = ref(false)
const lines = ref<MatchedLine[]>([])
const id = computed(() => props.draft.page.value!.aircraft.id)
const HOW: Record<string, string> = {
  kept: 'as it was in this list',
  known: 'from the library: data can carry it',
  own: 'your own words',
}
const { problem, isSending, go } = useSending(async () => {
  await props.draft.settled()
  const params = { path: { profile_id: id.value } }
  const said = await answer(
    api.POST('/api/aircraft/{profile_id}/lists', { params, body: { text: text.value, instead: instead.value } }),
  )
  await props.draft.open()
  lines.value = said.lines
})
</script>

<template>
  <details>
    <summary>Lists as text</summary>
    <p>
      <a :href="`/api/aircraft/${id}/lists.md`" download class="key out">Save these lists as text</a>
    </p>
    <label
      >Paste lists: a heading with the phase, then a line an item, as “Master | On” or “MASTER .... ON”
      <el-input v-model="text" type="textarea" :autosize="{ minRows: 4, maxRows: 14 }" />
    </label>
    <el-checkbox v-model="instead" size="large">These are all lists of the phases they name: the others go</el-checkbox>
    <p v-if="problem" class="look" role="alert">{{ problem }}</p>
    <p><button type="button" :disabled="!text.trim() || isSending" @click="go()">Put these lists in</button></p>
    <div v-if="lines.length" role="status">
      <p>{{ lines.length }} items read. Undo takes them back out.</p>
      <ol class="matched">
        <li v-for="(line, at) in lines" :key="at" :class="{ look: line.matched === 'own' }">
          {{ line.line }}: {{ HOW[line.matched] ?? line.matched }}
        </li>
      </ol>
    </div>
  </details>
</template>

<style scoped>
.matched {
  max-height: 240px;
  overflow-y: auto;
}
</style>

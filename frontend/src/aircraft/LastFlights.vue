<script setup lang="ts">
import { computed, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import { KINDS, dropWords, when } from '@/records/words'

/** The last three flights of an aircraft with their magneto drops, and one sentence on where these go. */
const props = defineProps<{
  /** The aircraft's registration. */
  registration: string
}>()
const SHOWN = 3
const LOOKED_AT = 10
const { answer: kept, ask } = useAnswer(() => {
  const query = { registration: props.registration, limit: LOOKED_AT }
  return answer(api.GET('/api/flights', { params: { query } }))
})
watch(() => props.registration, ask)
const own = computed(() => kept.value?.flights.slice(0, SHOWN) ?? [])
</script>

<template>
  <template v-if="own.length">
    <p>{{ kept?.sentence }}</p>
    <ol class="last">
      <li v-for="f in own" :key="f.id">
        <RouterLink :to="`/records/${f.id}`">{{ when(f.started_utc) }}, {{ f.pilot }}</RouterLink>
        <span class="soft">{{ KINDS[f.kind] }}</span>
        <span>{{ dropWords(f.drops) }}</span>
      </li>
    </ol>
  </template>
</template>

<style scoped>
.last {
  list-style: none;
  padding: 0;
  margin: 6px 0;
  display: grid;
  gap: 2px;
  max-width: 760px;
}
.last li {
  display: grid;
  grid-template-columns: 1fr 120px minmax(150px, auto);
  gap: 0 12px;
  align-items: center;
  min-height: 40px;
  border-bottom: 1px solid var(--line);
}
</style>

<script setup lang="ts">
import { computed, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import { KINDS, dropWords, when } from '@/records/words'
import LastDrops from './LastDrops.vue'

/** The last flights of an aircraft: one sentence on where its drops go, a small picture, the newest as rows. */
const props = defineProps<{
  /** The aircraft's registration. */
  registration: string
}>()
const SHOWN = 3
const LOOKED_AT = 10
const {
  answer: kept,
  isAsking,
  ask,
} = useAnswer(() => {
  const query = { registration: props.registration, limit: LOOKED_AT }
  return answer(api.GET('/api/flights', { params: { query } }))
})
watch(() => props.registration, ask)
/** What was asked of another aircraft is not shown under this one. */
const flights = computed(() =>
  isAsking.value ? [] : (kept.value?.flights.filter((f) => f.registration === props.registration) ?? []),
)
const real = computed(() => flights.value.filter((f) => !f.is_practice))
const drawn = computed(() => (real.value.length ? real.value : flights.value))
</script>

<template>
  <template v-if="flights.length">
    <p>{{ kept?.sentence }}</p>
    <LastDrops :flights="drawn" />
    <ol class="last">
      <li v-for="f in flights.slice(0, SHOWN)" :key="f.id">
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
}
.last li {
  display: grid;
  grid-template-columns: 1fr 90px minmax(130px, auto);
  gap: 0 12px;
  align-items: center;
  min-height: 48px;
  border-bottom: 1px solid var(--line);
}
.last a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
}
@media (max-width: 600px) {
  .last li {
    grid-template-columns: 90px 1fr;
    padding-bottom: 6px;
  }
  .last a {
    grid-column: 1 / -1;
  }
}
</style>

<script setup lang="ts">
import { ref } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import { when } from '@/records/words'

/** Flights that were taken out of the records: to be looked at, and to be removed for good. */
const isSure = ref(false)
const {
  answer: gone,
  problem,
  ask,
} = useAnswer(() => {
  const params = { query: { hidden: true, limit: 50 } }
  return answer(api.GET('/api/flights', { params }))
})
const { problem: notRemoved, go: remove } = useSending(async () => {
  await answer(api.POST('/api/flights/remove-hidden', { body: { flights: gone.value?.of ?? 0 } }))
  isSure.value = false
  await ask()
})
</script>

<template>
  <p v-if="problem || notRemoved" class="look" role="alert">{{ problem || notRemoved }}</p>
  <p v-if="gone && !gone.of">None waits to be removed.</p>
  <template v-if="gone?.of">
    <p>{{ gone.of }} {{ gone.of === 1 ? 'flight is' : 'flights are' }} out of the records.</p>
    <ul>
      <li v-for="one in gone.flights" :key="one.id">
        <RouterLink :to="`/records/${one.id}`">{{ one.registration }}, {{ when(one.started_utc) }}</RouterLink>
      </li>
    </ul>
    <button v-if="!isSure" type="button" @click="isSure = true">Remove them for good …</button>
    <p v-else class="sure">
      This cannot be taken back.
      <button type="button" class="stop" @click="remove">Remove {{ gone.of }} for good</button>
      <button type="button" @click="isSure = false">Leave them</button>
    </p>
  </template>
</template>

<style scoped>
li a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
}
.sure {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
</style>

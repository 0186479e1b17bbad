<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import EndFlight from './EndFlight.vue'
import { useEnding } from './ending'

/** On every page away from the engine: that a flight goes on, the way back to it, and how to end it. */
const ending = useEnding()
const isEnding = ref(false)
const { answer: live, ask } = useAnswer(() => answer(api.GET('/api/live')))
const going = computed(() => (live.value?.frame && !live.value.frame.ended ? live.value.frame : null))
watch(
  () => ending.ended,
  () => ask(),
)
</script>

<template>
  <section v-if="going" class="going" aria-label="Flight going on">
    <p>
      <b>{{ going.registration }}: a flight is going on,</b> {{ going.phase_title }}.
    </p>
    <RouterLink to="/flight" class="key main">Back to the flight</RouterLink>
    <button v-if="!isEnding" type="button" @click="isEnding = true">End it …</button>
    <EndFlight v-else :flight="going.flight" :registration="going.registration" @ended="isEnding = false" />
  </section>
</template>

<style scoped>
.going {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  border: 2px solid var(--ink);
  border-radius: 10px;
  padding: 8px 14px;
}
.going p {
  flex: 1 1 260px;
}
.main {
  display: inline-flex;
  align-items: center;
  background: var(--key);
  color: var(--on-key);
  text-decoration: none;
}
</style>

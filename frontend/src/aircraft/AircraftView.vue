<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import BeginFlight from './BeginFlight.vue'
import ChooseAircraft from './ChooseAircraft.vue'
import LastFlights from './LastFlights.vue'
import ReadProfile from './ReadProfile.vue'

/** Which aircraft, how its last run-ups compare, begin. */
const { answer: fleet, problem, ask } = useAnswer(() => answer(api.GET('/api/aircraft')))
const { answer: live } = useAnswer(() => answer(api.GET('/api/live')))
const chosen = useLocalStorage('aircraft', 'a-trainer')
const aircraft = computed(() => fleet.value?.aircraft ?? [])
const one = computed(() => aircraft.value.find((a) => a.id === chosen.value) ?? aircraft.value[0])
const going = computed(() => (live.value?.frame && !live.value.frame.ended ? live.value.frame : null))

async function taken(id: string) {
  await ask()
  chosen.value = id
}
</script>

<template>
  <PageFrame :problem="problem">
    <template #title>
      <b class="mark">Jemmon</b>
      <span class="soft">beside the pilot</span>
    </template>
    <template #tools>
      <RouterLink to="/records">Records</RouterLink>
      <RouterLink to="/settings">Settings</RouterLink>
    </template>
    <p v-if="fleet?.damage" class="stop" role="alert">
      <b>The database is damaged:</b> {{ fleet.damage }}. Stop Jemmon and bring back a copy; until then nothing new is
      safe.
    </p>
    <p v-for="old in fleet?.not_read" :key="old.id" class="look">
      <b>{{ old.registration }}</b> cannot be flown: {{ old.about }} Its flights are in the records.
    </p>
    <section v-if="going" class="going">
      <p class="sentence">A flight is in progress: {{ going.registration }}, {{ going.phase_title }}.</p>
      <RouterLink to="/flight" class="key go">Resume</RouterLink>
    </section>
    <template v-else-if="one">
      <ChooseAircraft v-model="chosen" :aircraft="aircraft" :one="one" />
      <section class="aircraft">
        <h1>{{ one.registration }}</h1>
        <p class="sentence">{{ one.name }}</p>
        <p>{{ one.about }}</p>
        <p v-if="!one.owner_signed" class="look">
          <b>Not checked against your handbook.</b> Its limits are invented; yours decide.
          <RouterLink :to="`/aircraft/${one.id}`">See every limit and list</RouterLink>
        </p>
        <p v-if="!one.has_bench" class="soft">No simulated engine: fly it by hand, or with scripted needles.</p>
        <LastFlights :registration="one.registration" />
        <BeginFlight :key="one.id" :aircraft="one" />
      </section>
      <ReadProfile @taken="taken" />
    </template>
    <p class="soft">
      Not certified equipment. The approved flight manual, local rules, an instructor and a licensed mechanic decide. A
      verdict “within” is no permission to fly.
    </p>
  </PageFrame>
</template>

<style scoped>
.mark {
  font-size: var(--mid);
}
h1 {
  font-size: var(--big);
  line-height: 1.1;
}
.aircraft,
.going {
  display: grid;
  gap: 8px;
  margin-bottom: 30px;
}
.go {
  display: inline-flex;
  align-items: center;
  justify-self: start;
  min-height: 64px;
  padding: 0 28px;
  text-decoration: none;
}
</style>

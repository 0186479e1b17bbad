<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { OWN_PAGES } from '@/parts/pages'
import BeginFlight from './BeginFlight.vue'
import ChooseAircraft from './ChooseAircraft.vue'
import LastFlights from './LastFlights.vue'
import ReadProfile from './ReadProfile.vue'

/** Which aircraft, how its last run-ups compare, begin. */
const { answer: fleet, problem, ask } = useAnswer(() => answer(api.GET('/api/aircraft')))
const chosen = useLocalStorage('aircraft', 'a-trainer')
const aircraft = computed(() => fleet.value?.aircraft ?? [])
const one = computed(() => aircraft.value.find((a) => a.id === chosen.value) ?? aircraft.value[0])

async function taken(id: string) {
  await ask()
  chosen.value = id
}
</script>

<template>
  <PageFrame title="Jemmon, beside the pilot" :problem="problem" :waiting="!fleet">
    <p v-if="fleet?.damage" class="stop" role="alert">
      <b>The database is damaged:</b> {{ fleet.damage }}. Stop Jemmon and bring back a copy; until then nothing new is
      safe.
    </p>
    <p v-for="old in fleet?.not_read" :key="old.id" class="look">
      <b>{{ old.registration }}</b> cannot be flown: {{ old.about }} Its flights are in the records.
    </p>
    <template v-if="one">
      <div class="halves">
        <div>
          <p class="new"><RouterLink to="/new" class="key out">A new aircraft of your own</RouterLink></p>
          <ChooseAircraft v-model="chosen" :aircraft="aircraft" :last="fleet?.last ?? []" :one="one" />
        </div>
        <section class="aircraft" :aria-label="one.registration">
          <h2>
            {{ one.registration }} <small>{{ one.name }}</small>
          </h2>
          <p>{{ one.about }}</p>
          <p v-if="!one.owner_signed" class="look">
            <b>Not checked against your handbook.</b>
            {{
              one.is_own
                ? 'Sign its limits one by one; what is not answered is not judged.'
                : 'Its limits are invented; yours decide.'
            }}
          </p>
          <nav :aria-label="`Pages of ${one.registration}`" class="own">
            <RouterLink v-for="[path, say] in OWN_PAGES" :key="path" :to="`/aircraft/${one.id}${path}`">{{
              say
            }}</RouterLink>
          </nav>
          <p v-if="!one.has_bench" class="soft">No simulated engine: fly it by hand, or with scripted needles.</p>
          <BeginFlight :key="one.id" :aircraft="one" />
          <LastFlights :registration="one.registration" />
        </section>
      </div>
      <ReadProfile @taken="taken" />
    </template>
    <p class="soft">
      Not certified equipment. The approved flight manual, local rules, an instructor and a licensed mechanic decide. A
      verdict “within” is no permission to fly.
    </p>
  </PageFrame>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 12px 36px;
  align-items: start; /* a long list of aircraft does not pull the chosen one apart */
}
@media (max-width: 800px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
  .halves > div {
    display: grid;
    gap: 8px;
  }
  .new {
    order: 1; /* after the own ones */
  }
  h2 small {
    display: block;
  }
}
.new {
  margin-bottom: 8px;
}
.new a {
  width: 100%;
}
h2 {
  font-size: 48px;
  line-height: 1.1;
}
h2 small {
  font-size: 22px;
}
.own {
  display: flex;
  flex-wrap: wrap;
  gap: 0 20px;
}
.own a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
}
.aircraft {
  display: grid;
  gap: 8px;
  margin-bottom: 30px;
}
</style>

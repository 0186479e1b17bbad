<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { get, post, upload } from '@/api/client'
import type { AircraftLine, FlightLine, Frame } from '@/api/schema'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'
import { newId } from '@/api/outbox'

/** Which aircraft, how its last run-ups compare, begin. */
const router = useRouter()
const aircraft = ref<AircraftLine[]>([])
const flights = ref<FlightLine[]>([])
const sentence = ref('')
const live = ref<Frame | null>(null)
const registration = ref('')
const pilot = ref('')
const problem = ref('')
const said = ref('')
const chosen = useLocalStorage('aircraft', 'a-trainer')
const one = computed(() => aircraft.value.find((a) => a.id === chosen.value) ?? aircraft.value[0])
const ownFlights = computed(() => flights.value.filter((f) => f.registration === one.value?.registration).slice(0, 3))

async function readIn(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  problem.value = said.value = ''
  try {
    const answer = await upload<{ aircraft: AircraftLine }>('/api/aircraft', file, 'application/json')
    aircraft.value = (await get<{ aircraft: AircraftLine[] }>('/api/aircraft')).aircraft
    chosen.value = answer.aircraft.id
    said.value = `${answer.aircraft.registration} is read in.`
  } catch (error) {
    problem.value = (error as Error).message
  }
  ;(event.target as HTMLInputElement).value = ''
}

onMounted(async () => {
  try {
    aircraft.value = (await get<{ aircraft: AircraftLine[] }>('/api/aircraft')).aircraft
    live.value = (await get<{ frame: Frame | null }>('/api/live')).frame
    const kept = await get<{ flights: FlightLine[]; sentence: string }>('/api/flights')
    flights.value = kept.flights
    sentence.value = kept.sentence
  } catch (error) {
    problem.value = (error as Error).message
  }
})

async function begin(source: 'bench' | 'manual' | 'device') {
  problem.value = ''
  const body = {
    id: newId(),
    aircraft: one.value?.id,
    registration: registration.value,
    pilot: pilot.value || 'Pilot',
    source,
    speed: 1,
  }
  try {
    await post('/api/flights', body)
    await router.push('/flight')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <main class="page">
    <header>
      <b class="mark">Jemmon</b>
      <span class="soft">beside the pilot</span>
      <nav>
        <RouterLink to="/records">Records</RouterLink>
        <RouterLink to="/settings">Settings</RouterLink>
        <DisplaySwitches />
      </nav>
    </header>
    <p v-if="problem" class="sentence look" role="alert">{{ problem }}</p>
    <section v-if="live && !live.ended" class="going">
      <p class="sentence">A flight is going on: {{ live.phase_title }}.</p>
      <RouterLink to="/flight" class="key go">Go on with it</RouterLink>
    </section>
    <template v-else-if="one">
      <div class="choose" role="group" aria-label="Aircraft">
        <button
          v-for="a in aircraft"
          :key="a.id"
          type="button"
          :aria-pressed="a.id === one.id"
          @click="((chosen = a.id), (registration = ''), (problem = ''))"
        >
          <b>{{ a.registration }}</b> {{ a.name }}
        </button>
      </div>
      <section class="aircraft">
        <h1>{{ one.registration }}</h1>
        <p class="sentence">{{ one.name }}</p>
        <p>{{ one.about }}</p>
        <p v-if="!one.owner_signed" class="look">
          <b>Not checked against your handbook.</b> Its limits are invented; yours decide.
          <RouterLink :to="`/aircraft/${one.id}`">See every limit and list</RouterLink>
        </p>
        <p v-if="!one.has_bench" class="soft">No simulated engine yet: fly it by hand, or with scripted needles.</p>
        <p v-if="ownFlights.length">{{ sentence }}</p>
        <ol v-if="ownFlights.length" class="last">
          <li v-for="f in ownFlights" :key="f.id">
            <RouterLink :to="`/records/${f.id}`">{{ f.started_utc.slice(0, 10) }}, {{ f.pilot }}</RouterLink>
            <span
              >left <b>{{ f.drop_left_rpm === null ? '–' : Math.round(f.drop_left_rpm) }}</b></span
            >
            <span
              >right <b>{{ f.drop_right_rpm === null ? '–' : Math.round(f.drop_right_rpm) }}</b></span
            >
          </li>
        </ol>
        <form @submit.prevent="begin('bench')">
          <label
            >Type the registration to confirm the aircraft
            <el-input v-model="registration" :placeholder="one.registration" autocomplete="off" size="large" />
          </label>
          <label
            >Pilot
            <el-input v-model="pilot" placeholder="Your name" autocomplete="off" size="large" />
          </label>
          <div class="begin">
            <button type="submit" class="main">
              {{ one.has_bench ? 'Begin on the simulated engine' : 'Begin with scripted needles' }}
            </button>
            <button type="button" @click="begin('manual')">Begin by hand</button>
            <button type="button" @click="begin('device')">Begin with an instrument</button>
          </div>
        </form>
      </section>
      <p class="file">
        <label>Read an aircraft profile in (JSON) <input type="file" accept=".json" @change="readIn" /></label>
        <span v-if="said" role="status">{{ said }}</span>
      </p>
    </template>
    <p class="soft">
      Not certified equipment. The approved flight manual, local rules, an instructor and a licensed mechanic decide. A
      verdict “within” is no permission to fly.
    </p>
  </main>
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
.choose {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 14px;
}
.file {
  margin: 10px 0 24px;
}
.file input {
  font: inherit;
  min-height: 48px;
}
.last {
  list-style: none;
  padding: 0;
  margin: 6px 0;
  display: grid;
  gap: 2px;
  max-width: 620px;
}
.last li {
  display: grid;
  grid-template-columns: 1fr 90px 90px;
  align-items: center;
  min-height: 40px;
  border-bottom: 1px solid var(--line);
}
form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 20px;
  max-width: 760px;
}
.begin {
  grid-column: 1 / -1;
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
}
.begin button {
  min-height: 64px;
  padding: 0 24px;
}
.go {
  display: inline-flex;
  align-items: center;
  justify-self: start;
  min-height: 64px;
  padding: 0 28px;
  text-decoration: none;
}
@media (max-width: 700px) {
  form {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, newId } from '@/api/client'
import type { AircraftLine, BeginFlight } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import { tellDay } from '@/plan/day'

/** Say who flies and begin, one of three ways: practise, by hand, with an instrument. A real one confirms its registration. */
const props = defineProps<{
  /** The aircraft. */
  aircraft: AircraftLine
}>()
const router = useRouter()
const registration = ref('')
const pilot = useLocalStorage('pilot', '')
const fault = ref('')
const asksRegistration = ref(false)
const params = { path: { profile_id: props.aircraft.id } }
const { answer: known } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}/faults', { params })))
const faults = computed(() => known.value?.faults ?? [])
const parts = computed(() =>
  [...new Set(faults.value.map((one) => one.part))].map(
    (part) => [part, faults.value.filter((one) => one.part === part)] as const,
  ),
)
const { problem, isSending, go } = useSending(async (source: BeginFlight['source']) => {
  const isReal = source !== 'bench'
  asksRegistration.value = isReal && !registration.value.trim()
  if (asksRegistration.value) throw new Error('Type the registration first: is it this aircraft?')
  const body: BeginFlight = {
    id: newId(),
    aircraft: props.aircraft.id,
    registration: isReal ? registration.value : props.aircraft.registration,
    pilot: pilot.value || 'Pilot',
    source,
    speed: 1,
    ...(source === 'bench' && fault.value ? { fault: fault.value } : {}),
  }
  await answer(api.POST('/api/flights', { body }))
  await tellDay(props.aircraft.id, body.id)
  await router.push('/flight')
})
</script>

<template>
  <form @submit.prevent="go('bench')">
    <label
      >Pilot
      <el-input v-model="pilot" placeholder="Your name" autocomplete="off" size="large" />
    </label>
    <p v-if="problem" class="look" role="alert">
      <b>{{ problem }}</b>
    </p>
    <section aria-labelledby="practise">
      <h3 id="practise">Practise</h3>
      <p>
        {{
          aircraft.has_bench ? 'The simulated engine, with its levers on the screen.' : 'Needles that follow a script.'
        }}
      </p>
      <button type="submit" class="main" :disabled="isSending">
        {{ aircraft.has_bench ? 'Practise on the simulated engine' : 'Practise with scripted needles' }}
      </button>
      <RouterLink to="/practice" class="key out">Drills with a debrief</RouterLink>
      <RouterLink v-if="aircraft.has_bench" :to="`/aircraft/${aircraft.id}/engine`" class="key out"
        >Make it run like yours</RouterLink
      >
      <p v-if="faults.length" class="soft">A fault to practise:</p>
      <el-select
        v-if="faults.length"
        v-model="fault"
        aria-label="Practise a fault"
        placeholder="Nothing is wrong"
        clearable
        filterable
        size="large"
      >
        <el-option value="surprise" label="A surprise: told at the end" />
        <el-option-group v-for="[part, ones] in parts" :key="part" :label="part">
          <el-option v-for="one in ones" :key="one.name" :value="one.name" :label="one.says" />
        </el-option-group>
      </el-select>
    </section>
    <section aria-labelledby="real">
      <h3 id="real">Fly</h3>
      <label
        >Type the registration to confirm the aircraft
        <el-input
          v-model="registration"
          :placeholder="aircraft.registration"
          :aria-invalid="asksRegistration"
          autocomplete="off"
          size="large"
        />
      </label>
      <div class="ways">
        <p>
          <button type="button" :disabled="isSending" @click="go('manual')">Begin by hand</button>
          You read the needles, Jemmon keeps lists, clocks and sums.
        </p>
        <p>
          <button type="button" :disabled="isSending" @click="go('device')">Begin with an instrument</button>
          A box on the network gives the needles.
        </p>
      </div>
    </section>
  </form>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 24px;
}
form > label,
form > p {
  grid-column: 1 / -1;
  max-width: 420px;
}
section {
  display: grid;
  gap: 8px;
  align-content: start;
}
h3 {
  font-size: 22px;
}
button {
  min-height: 64px;
}
.main {
  font-size: 22px;
}
.ways {
  display: grid;
  gap: 8px;
}
.ways p {
  display: grid;
  gap: 2px;
}
@media (max-width: 700px) {
  form {
    grid-template-columns: 1fr;
  }
}
</style>

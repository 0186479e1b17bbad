<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, newId } from '@/api/client'
import type { AircraftLine, BeginFlight } from '@/api/schema'
import { useSending } from '@/api/useAnswer'

/** Confirm the aircraft by its registration, say who flies, begin: on the simulated engine, by hand, with an instrument. */
const props = defineProps<{
  /** The aircraft. */
  aircraft: AircraftLine
}>()
const router = useRouter()
const registration = ref('')
const pilot = ref('')
const { problem, isSending, go } = useSending(async (source: BeginFlight['source']) => {
  const body: BeginFlight = {
    id: newId(),
    aircraft: props.aircraft.id,
    registration: registration.value,
    pilot: pilot.value || 'Pilot',
    source,
    speed: 1,
  }
  await answer(api.POST('/api/flights', { body }))
  await router.push('/flight')
})
</script>

<template>
  <form @submit.prevent="go('bench')">
    <label
      >Type the registration to confirm the aircraft
      <el-input v-model="registration" :placeholder="aircraft.registration" autocomplete="off" size="large" />
    </label>
    <label
      >Pilot
      <el-input v-model="pilot" placeholder="Your name" autocomplete="off" size="large" />
    </label>
    <p v-if="problem" class="look" role="alert">
      <b>{{ problem }}</b>
    </p>
    <div class="begin">
      <button type="submit" class="main" :disabled="isSending">
        {{ aircraft.has_bench ? 'Practise on the simulated engine' : 'Practise with scripted needles' }}
      </button>
      <button type="button" :disabled="isSending" @click="go('manual')">Begin by hand</button>
      <button type="button" :disabled="isSending" @click="go('device')">Begin with an instrument</button>
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 20px;
  max-width: 820px;
}
.begin,
form > p {
  grid-column: 1 / -1;
}
.begin {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
}
.begin button {
  min-height: 64px;
  padding: 0 24px;
}
.begin .main {
  font-size: 22px;
}
@media (max-width: 700px) {
  form {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import type { InstrumentHeard } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'

/** Where the engine instrument is, and a trial of a few seconds that says what it sends. */
const host = ref('')
const port = ref('')
const heard = ref<InstrumentHeard | null>(null)
const isKept = ref(false)
const { answer: known, problem } = useAnswer(() => answer(api.GET('/api/device')))
watch(known, (address) => {
  host.value = address?.host ?? ''
  port.value = String(address?.port ?? '')
})
const { problem: notKept, go: keep } = useSending(async () => {
  isKept.value = false
  heard.value = null
  await answer(api.POST('/api/device', { body: { host: host.value.trim(), port: Number(port.value) } }))
  isKept.value = true
})
const {
  problem: notHeard,
  isSending: isListening,
  go: listen,
} = useSending(async () => {
  await keep()
  if (isKept.value) heard.value = await answer(api.GET('/api/device/heard'))
})
</script>

<template>
  <p>
    A box that sends its readings as JSON Lines over TCP. To try it without one, type
    <code>.venv/bin/jemmon device</code> in a terminal: a simulated instrument on port 8420.
  </p>
  <form v-if="known" @submit.prevent="keep">
    <label>Host <el-input v-model="host" autocomplete="off" size="large" /></label>
    <label>Port <el-input v-model="port" autocomplete="off" size="large" inputmode="numeric" /></label>
    <button type="submit" class="main">Keep</button>
    <button type="button" :disabled="isListening" @click="listen">
      {{ isListening ? 'Listening …' : 'Keep and listen' }}
    </button>
  </form>
  <p v-if="problem || notKept || notHeard" class="look" role="alert">{{ problem || notKept || notHeard }}</p>
  <p role="status">
    <span v-if="heard?.readings.length" class="within">✓ It sends: {{ heard.readings.join(', ') }}.</span>
    <span v-else-if="heard?.is_there" class="look">
      Something answers, but says nothing that is a reading. See docs/formats.md for the lines.
    </span>
    <span v-else-if="heard" class="look">Nobody answers there. Is the box on, and in this network?</span>
    <span v-else-if="isKept" class="within">Kept: flights that begin from now on listen there.</span>
  </p>
</template>

<style scoped>
form {
  display: flex;
  gap: 10px 20px;
  flex-wrap: wrap;
  align-items: end;
  margin: 14px 0;
}
</style>

<script setup lang="ts">
import { ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'

/** Where the engine instrument is; the rest of what can be set is the row of switches above. */
const host = ref('')
const port = ref('')
const said = ref('')
const { answer: known, problem } = useAnswer(() => answer(api.GET('/api/device')))
watch(known, (address) => {
  host.value = address?.host ?? ''
  port.value = String(address?.port ?? '')
})
const { problem: notKept, go: keep } = useSending(async () => {
  said.value = ''
  await answer(api.POST('/api/device', { body: { host: host.value.trim(), port: Number(port.value) } }))
  said.value = 'Kept: flights that begin from now on listen there.'
})
</script>

<template>
  <PageFrame :back="{ to: '/', say: 'Aircraft' }" title="Settings" :problem="problem || notKept">
    <h2>Engine instrument</h2>
    <p>
      A box that sends its readings as JSON Lines over TCP. To try it without one, type
      <code>.venv/bin/jemmon device</code> in a terminal: a simulated instrument on port 8420.
    </p>
    <form v-if="known" @submit.prevent="keep">
      <label>Host <el-input v-model="host" autocomplete="off" size="large" /></label>
      <label>Port <el-input v-model="port" autocomplete="off" size="large" inputmode="numeric" /></label>
      <button type="submit" class="main">Keep</button>
    </form>
    <p v-if="said" role="status" class="within">{{ said }}</p>
  </PageFrame>
</template>

<style scoped>
form {
  display: flex;
  gap: 10px 20px;
  flex-wrap: wrap;
  align-items: end;
  margin: 14px 0;
}
form button {
  min-height: 48px;
}
</style>

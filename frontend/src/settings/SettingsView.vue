<script setup lang="ts">
import { ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { when } from '@/records/words'

/** Where the engine instrument is, what is removed for good, a copy of everything; the rest is the row of switches above. */
const host = ref('')
const port = ref('')
const said = ref('')
const { answer: known, problem } = useAnswer(() => answer(api.GET('/api/device')))
watch(known, (address) => {
  host.value = address?.host ?? ''
  port.value = String(address?.port ?? '')
})
const isSure = ref(false)
const { answer: gone, ask } = useAnswer(() => {
  const params = { query: { hidden: true, limit: 50 } }
  return answer(api.GET('/api/flights', { params }))
})
const { problem: notRemoved, go: remove } = useSending(async () => {
  await answer(api.POST('/api/flights/remove-hidden', { body: { flights: gone.value?.of ?? 0 } }))
  isSure.value = false
  await ask()
})
const { problem: notKept, go: keep } = useSending(async () => {
  said.value = ''
  await answer(api.POST('/api/device', { body: { host: host.value.trim(), port: Number(port.value) } }))
  said.value = 'Kept: flights that begin from now on listen there.'
})
</script>

<template>
  <PageFrame title="Settings" :problem="problem || notKept || notRemoved">
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
    <h2>Deleted flights</h2>
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
    <h2>Copy of everything</h2>
    <p><a href="/api/flights.zip" download class="whole">Save all flights as a file</a></p>
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
h2 {
  font-size: 22px;
  margin-top: 24px;
}
li a,
.whole {
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

<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { get, post } from '@/api/client'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'

/** Where the engine instrument is; the rest of what can be set is the row of switches above. */
const host = ref('')
const port = ref('')
const said = ref('')
const problem = ref('')
/** What is kept has come: before that nothing can be typed that it would fall into. */
const isKnown = ref(false)

onMounted(async () => {
  try {
    const address = await get<{ host: string; port: number }>('/api/device')
    host.value = address.host
    port.value = String(address.port)
  } catch (error) {
    problem.value = (error as Error).message
  }
  isKnown.value = true
})

async function keep() {
  said.value = problem.value = ''
  try {
    await post('/api/device', { host: host.value.trim(), port: Number(port.value) })
    said.value = 'Kept: flights that begin from now on listen there.'
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <main class="page">
    <header>
      <RouterLink to="/" class="key out">‹ Aircraft</RouterLink>
      <nav><DisplaySwitches /></nav>
    </header>
    <h1>Settings</h1>
    <h2>Engine instrument</h2>
    <p>
      A box that sends its readings as JSON Lines over TCP. To try it without one, type
      <code>.venv/bin/jemmon device</code> in a terminal: a simulated instrument on port 8420.
    </p>
    <form v-if="isKnown" @submit.prevent="keep">
      <label>Host <el-input v-model="host" autocomplete="off" size="large" /></label>
      <label>Port <el-input v-model="port" autocomplete="off" size="large" inputmode="numeric" /></label>
      <button type="submit" class="main">Keep</button>
    </form>
    <p v-if="said" role="status" class="within">{{ said }}</p>
    <p v-if="problem" role="alert" class="look">{{ problem }}</p>
  </main>
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

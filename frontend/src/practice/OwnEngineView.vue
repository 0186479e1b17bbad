<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { answer, api } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import { useDisplay } from '@/parts/display'
import PageFrame from '@/parts/PageFrame.vue'

/** The simulated engine fitted to the aircraft's own flights: what they showed, what it gave, what it gives, what is left. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const params = { path: { profile_id: props.id } }
const display = useDisplay()
const who = useLocalStorage('pilot', '')
const { answer: page, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}/own-engine', { params })))
const {
  problem: notKept,
  isSending,
  go: fit,
} = useSending(async () => {
  if (!who.value.trim()) throw new Error('Type your name first.')
  page.value = await answer(
    api.POST('/api/aircraft/{profile_id}/own-engine', { params, body: { who: who.value.trim() } }),
  )
})
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    :title="page ? `Simulated engine of ${page.aircraft.registration}` : 'Simulated engine'"
    :problem="problem || notKept"
    :waiting="!page"
  >
    <template v-if="page">
      <p class="sentence">
        {{
          page.fit.figures.length
            ? `${page.flights} flights${page.is_practice ? ' for practice' : ''} show how this engine runs.`
            : 'No flight shows a figure to fit it to.'
        }}
      </p>
      <table v-if="page.fit.figures.length">
        <thead>
          <tr>
            <th></th>
            <th>Your flights</th>
            <th>Simulated now</th>
            <th>Fitted</th>
            <th>Left over</th>
            <th>Flights</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in page.fit.figures" :key="one.title">
            <td>
              <b>{{ one.title }}</b>
            </td>
            <td>{{ display.withUnit(one.shown, one.unit) }}</td>
            <td>{{ display.withUnit(one.before, one.unit) }}</td>
            <td>{{ display.withUnit(one.after, one.unit) }}</td>
            <td>{{ display.difference(one.left, one.unit) }}</td>
            <td>{{ one.flights }}</td>
          </tr>
        </tbody>
      </table>
      <h2>Not fitted</h2>
      <ul>
        <li v-for="one in page.fit.not_fitted" :key="one">{{ one }}</li>
      </ul>
      <form v-if="page.fit.figures.length" @submit.prevent="fit()">
        <label>Who <el-input v-model="who" autocomplete="off" size="large" /></label>
        <button type="submit" class="main" :disabled="isSending">
          {{ isSending ? 'Fitting …' : 'Practise on this engine' }}
        </button>
      </form>
      <p class="soft">
        It becomes a version of this aircraft; <RouterLink :to="`/aircraft/${id}/versions`">Versions</RouterLink> brings
        the one before back. A simulated engine is not yours, however well it is fitted.
      </p>
    </template>
  </PageFrame>
</template>

<style scoped>
form {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
  margin: 12px 0;
}
h2 {
  margin: 16px 0 6px;
  font-size: 22px;
}
.main {
  font-size: 22px;
  min-height: 56px;
}
</style>

<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { answer, api } from '@/api/client'
import type { FittedFigure } from '@/api/schema'
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
      <el-table v-if="page.fit.figures.length" :data="page.fit.figures" row-key="title">
        <el-table-column label="Figure" prop="title" min-width="220" />
        <el-table-column label="Your flights" min-width="110">
          <template #default="{ row }: { row: FittedFigure }">
            <b>{{ display.withUnit(row.shown, row.unit) }}</b>
          </template>
        </el-table-column>
        <el-table-column label="Simulated now" min-width="120">
          <template #default="{ row }: { row: FittedFigure }">{{ display.withUnit(row.before, row.unit) }}</template>
        </el-table-column>
        <el-table-column label="Fitted" min-width="110">
          <template #default="{ row }: { row: FittedFigure }">{{ display.withUnit(row.after, row.unit) }}</template>
        </el-table-column>
        <el-table-column label="Left over" min-width="90">
          <template #default="{ row }: { row: FittedFigure }">{{ display.difference(row.left, row.unit) }}</template>
        </el-table-column>
        <el-table-column label="Flights, or starts" prop="flights" min-width="130" />
      </el-table>
      <h2 v-if="page.fit.not_fitted.length">Not fitted</h2>
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

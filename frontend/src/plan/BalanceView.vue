<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, shallowRef } from 'vue'
import { answer, api } from '@/api/client'
import type { Balance, LoadingSheet } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'
import { useKeptFigures } from '@/parts/useKeptFigures'
import EnvelopePicture from './EnvelopePicture.vue'

/** Mass and balance: what is loaded where, and whether take-off, landing and an empty tank stay inside. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const { answer: page, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}/balance', { params })))
const BURNED = 'fuel burned' // beside the stations, whose names have no space
const { typed, figure } = useKeptFigures(`loading_figures:${props.id}`, () => 'kg')
const sheet = shallowRef<LoadingSheet>()
const balance = computed(() => (page.value?.balance ?? null) as Balance | null)
/** Whether anything is loaded: nobody's empty aircraft gets no green word. */
const isLoaded = () => balance.value!.stations.some((one) => typed.value[one.id]?.trim())
const { problem: notWorked, go: work } = useSending(async () => {
  if (!isLoaded()) {
    sheet.value = undefined
    return
  }
  const loads = Object.fromEntries(balance.value!.stations.map((one) => [one.id, figure(one.id) ?? 0]))
  const burned_kg = figure(BURNED) ?? 0
  if (![...Object.values(loads), burned_kg].every(Number.isFinite)) throw new Error('Type figures only.')
  const body = { loads_kg: loads, burned_kg }
  sheet.value = await answer(api.POST('/api/aircraft/{profile_id}/balance', { params, body }))
})
watchDebounced([typed, balance, () => display.chosen], () => balance.value && work(), {
  debounce: 250,
  deep: true,
  immediate: true,
})
const mass = (kg: number) => display.withUnit(kg, 'kg')
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    :title="page ? `Mass and balance of ${page.aircraft.registration}` : 'Mass and balance'"
    :problem="problem || notWorked"
    :waiting="!page"
  >
    <template v-if="page && !balance">
      <p class="sentence">This profile says nothing of its loading.</p>
      <p><RouterLink :to="`/aircraft/${id}/edit`">Add it from the weighing report</RouterLink></p>
    </template>
    <template v-if="balance">
      <p class="sentence" role="status" :class="sheet && (sheet.is_inside ? 'within' : 'stop')">
        {{
          !sheet
            ? 'Type what is loaded.'
            : sheet.is_inside
              ? 'Inside, at take-off, at landing and without fuel'
              : 'Outside'
        }}
      </p>
      <div class="halves">
        <form @submit.prevent>
          <label v-for="one in balance.stations" :key="one.id">
            {{ one.title }} [{{ display.label('kg') }}]
            <el-input v-model="typed[one.id]" inputmode="decimal" size="large" autocomplete="off" />
            <small class="soft">
              arm {{ display.withUnit(one.arm_m, 'm')
              }}{{ one.most_kg !== null ? `, at most ${mass(one.most_kg)}` : '' }}
            </small>
          </label>
          <label
            >Fuel burned until landing [{{ display.label('kg') }}]
            <el-input v-model="typed[BURNED]" inputmode="decimal" size="large" autocomplete="off" />
            <small class="soft">{{ mass(page!.fuel_kg_gal) }} a US gallon of avgas</small>
          </label>
        </form>
        <EnvelopePicture :balance="balance" :states="sheet?.states ?? []" />
      </div>
      <template v-if="sheet">
        <p v-for="line in sheet.over" :key="line" class="stop">{{ line }}</p>
        <table>
          <thead>
            <tr>
              <th>State</th>
              <th class="figure">Mass</th>
              <th class="figure">Arm</th>
              <th v-if="balance.across.length" class="figure">To the right</th>
              <th>Inside</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in sheet.states" :key="one.title">
              <td>{{ one.title }}</td>
              <td class="figure">{{ mass(one.mass_kg) }}</td>
              <td class="figure">{{ display.withUnit(one.arm_m, 'm') }}</td>
              <td v-if="balance.across.length" class="figure">{{ display.withUnit(one.across_m, 'm') }}</td>
              <td :class="one.is_inside ? 'within' : 'stop'">
                {{ one.against.length ? one.against.map((words) => display.sentence(words)).join('; ') : '✓ inside' }}
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="sheet.ballast" class="look">
          Ballast of {{ mass(sheet.ballast.mass_kg) }} at {{ sheet.ballast.station }} brings all of it inside.
        </p>
        <p class="soft">The handbook and the weighing report decide.</p>
      </template>
    </template>
  </PageFrame>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 28px;
  align-items: start;
}
@media (max-width: 800px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
form {
  display: grid;
  gap: 10px;
}
label {
  display: grid;
}
table {
  border-collapse: collapse;
  width: 100%;
  margin-top: 14px;
}
th,
td {
  text-align: left;
  padding: 6px 14px 6px 0;
  border-bottom: 1px solid var(--line);
}
.figure {
  text-align: right;
  white-space: nowrap;
}
</style>

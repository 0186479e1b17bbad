<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '@/api/client'
import type { TodayPage } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'
import { useKeptFigures } from '@/parts/useKeptFigures'
import { keepDay } from './day'

/** The numbers of today before the start: typed once, shown with what they make of the type's figures, taken into the flight. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const router = useRouter()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const FIELDS = [
  ['elevation_ft', 'Field elevation', 'ft'],
  ['altimeter_inhg', 'Altimeter setting', 'inhg'],
  ['oat_c', 'Outside', 'c'],
  ['dewpoint_c', 'Dew point', 'c'],
  ['runway_deg', 'Runway heading, magnetic [°]', ''],
  ['wind_from_deg', 'Wind from, true [°]', ''],
  ['variation_deg', 'Variation, east + [°]', ''],
  ['wind_kt', 'Wind', 'kt'],
  ['gust_kt', 'Gusts', 'kt'],
  ['cruise_ft', 'Cruise altitude', 'ft'],
  ['people', 'People on board', ''],
] as const
const UNITS: Record<string, string> = Object.fromEntries(FIELDS.map(([name, , unit]) => [name, unit]))
const { typed, figure } = useKeptFigures(`today_figures:${props.id}`, (name) => UNITS[name] ?? 'gal') // a tank has no row
const page = shallowRef<TodayPage>()
const known = (rows: (readonly [name: string, value: number | undefined])[]): Record<string, number> =>
  Object.fromEntries(rows.filter((row): row is [string, number] => Number.isFinite(row[1])))
const tanks = computed(() => page.value?.tanks ?? [])
const fuel = computed(() => known(tanks.value.map((tank) => [tank, figure(`tank ${tank}`)] as const)))
const query = computed(() => ({
  ...known(FIELDS.map(([name]) => [name, figure(name)] as const)),
  ...(Object.keys(fuel.value).length && {
    fuel_gal: Object.values(fuel.value).reduce((all, gallons) => all + gallons, 0),
  }),
}))
const { problem: notAsked, go: ask } = useSending(async () => {
  page.value = await answer(api.GET('/api/aircraft/{profile_id}/today', { params: { ...params, query: query.value } }))
})
const { problem } = useAnswer(ask)
// as text: an answer makes the tanks anew, and must not ask again by that
watchDebounced(
  () => JSON.stringify([query.value, display.chosen]),
  () => ask(),
  { debounce: 250 },
)
function take() {
  const { weather, cruise_ft, people } = page.value!
  keepDay(props.id, { weather, cruise_ft, people, fuel_gal: fuel.value })
  localStorage.setItem('aircraft', props.id)
  void router.push('/')
}
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    :title="page ? `Today with ${page.aircraft.registration}` : 'Today'"
    :problem="problem || notAsked"
    :waiting="!page"
  >
    <template v-if="page">
      <p class="sentence">
        {{
          page.air.density_altitude_ft === null
            ? 'Type the day: field, altimeter, temperature, wind.'
            : `Density altitude ${display.withUnit(page.air.density_altitude_ft, 'ft')}`
        }}
      </p>
      <form class="day" @submit.prevent>
        <label v-for="[name, title, unit] in FIELDS" :key="name">
          {{ title }} <span v-if="unit" class="soft">{{ display.label(unit) }}</span>
          <el-input v-model="typed[name]" inputmode="decimal" size="large" autocomplete="off" />
        </label>
        <label v-for="tank in tanks" :key="tank">
          Fuel, {{ tank }} <span class="soft">{{ display.label('gal') }}</span>
          <el-input v-model="typed[`tank ${tank}`]" inputmode="decimal" size="large" autocomplete="off" />
        </label>
      </form>
      <table v-if="page.figures.length">
        <tbody>
          <tr v-for="one in page.figures" :key="one.title" :class="{ look: one.look }">
            <th scope="row">{{ one.title }}</th>
            <td class="figure">
              <b>{{ display.withUnit(one.value, one.unit) }}</b>
            </td>
            <td class="soft">{{ display.sentence(one.note) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="page.air.icing">Carburettor ice: {{ page.air.icing }}.</p>
      <p v-if="page.air.wind_note" class="look">{{ page.air.wind_note }}</p>
      <p v-if="page.cruise_ft !== null" class="soft">
        Climb leaning and the call to level off go by {{ display.withUnit(page.cruise_ft, 'ft') }}.
      </p>
      <p><button type="button" class="main" @click="take">Take these into the flight</button></p>
    </template>
  </PageFrame>
</template>

<style scoped>
.day {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 10px 16px;
  align-items: end;
  margin: 10px 0 16px;
}
table {
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  font-weight: 400;
  padding: 6px 24px 6px 0;
  border-bottom: 1px solid var(--line);
}
.figure {
  text-align: right;
  white-space: nowrap;
}
</style>

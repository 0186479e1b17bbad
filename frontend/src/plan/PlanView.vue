<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { get } from '@/api/client'
import type { PlanPage } from '@/api/schema'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'
import PlanPictures from './PlanPictures.vue'
import { useDisplay } from '@/parts/display'

/** Before the flight: what to set for a power, what full throttle still gives by height, and the climb. Prints as a card. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const page = ref<PlanPage>()
const plan = computed(() => page.value?.plan)
const problem = ref('')
const asked = ref({ pct: '65', palt_ft: '', oat_c: '', fuel_gal: '', wind_kt: '' })
const target = ref('')
const FIELDS: [keyof typeof asked.value, string, string][] = [
  ['pct', 'Power', '%'],
  ['palt_ft', 'Pressure altitude', 'ft'],
  ['oat_c', 'Outside', '°C'],
  ['fuel_gal', 'Fuel on board', 'gal'],
  ['wind_kt', 'Wind along, tail +', 'kt'],
]
let asks = 0
async function ask() {
  const mine = ++asks // an answer that comes after a newer question is not shown
  const query = new URLSearchParams(Object.entries(asked.value).filter(([, text]) => text !== ''))
  const fuel = display.toCore(Number(asked.value.fuel_gal), 'gal')
  if (asked.value.fuel_gal && Number.isFinite(fuel)) query.set('fuel_gal', fuel.toFixed(2))
  if (target.value) query.set('target', target.value)
  try {
    const made = await get<PlanPage>(`/api/aircraft/${props.id}/plan?${query}`)
    if (mine !== asks) return
    page.value = made
    problem.value = ''
    if (!asked.value.palt_ft && page.value.cruise_ft) asked.value.palt_ft = String(page.value.cruise_ft)
  } catch (error) {
    if (mine === asks) problem.value = (error as Error).message
  }
}
onMounted(async () => {
  await display.load()
  await ask()
})
watch([asked, target, () => display.units], ask, { deep: true })
const clock = (minutes: number) => `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
const hours = (h: number | null) => (h === null ? '–' : clock(Math.round(h * 60)))
const printIt = () => window.print()
</script>

<template>
  <main class="page">
    <header>
      <RouterLink :to="`/aircraft/${id}`">‹ {{ page?.aircraft.registration ?? 'Aircraft' }}</RouterLink>
      <b>Plan</b>
      <nav>
        <button type="button" @click="printIt">Print the card</button>
        <DisplaySwitches />
      </nav>
    </header>
    <form class="asked" @submit.prevent="ask">
      <label v-for="[name, title, unit] in FIELDS" :key="name">
        {{ title }} <span class="soft">{{ display.label(unit) || unit }}</span>
        <input v-model.lazy="asked[name]" inputmode="decimal" />
      </label>
      <label>
        Mixture <span class="soft">of the cruise</span>
        <select v-model="target">
          <option value="">Best power</option>
          <option v-for="t in page?.targets" :key="t.id" :value="t.id">{{ t.title }}</option>
        </select>
      </label>
    </form>
    <p v-if="problem" class="look" role="alert">{{ problem }}</p>
    <template v-if="plan">
      <p v-if="plan.refused" class="stop" role="alert">
        <b>{{ display.sentence(plan.refused) }}</b>
      </p>
      <div class="halves">
        <section aria-label="Settings">
          <h2>For {{ asked.pct || 65 }} % at a density altitude of {{ plan.density_altitude_ft }} ft</h2>
          <p v-if="!plan.rows.length">
            No setting that the type allows gives this power here: full throttle gives less, or the type has no table.
          </p>
          <table v-else>
            <thead>
              <tr>
                <th>RPM</th>
                <th>Manifold {{ display.label('inhg') }}</th>
                <th>Flow {{ display.label('gph') }}{{ plan.engines > 1 ? ' each' : '' }}</th>
                <th>Speed kt</th>
                <th>Hours</th>
                <th>Range nm</th>
                <th></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in plan.rows" :key="row.rpm">
                <td>{{ row.rpm }}</td>
                <td>{{ display.figure(row.map_inhg, 'inhg') }}</td>
                <td>{{ display.figure(row.ff_gph, 'gph') }}</td>
                <td>{{ row.tas_kt ?? '–' }}</td>
                <td>{{ hours(row.endurance_h) }}</td>
                <td>{{ row.range_nm ?? '–' }}</td>
                <td class="soft">{{ row.remark }}</td>
              </tr>
            </tbody>
          </table>
          <p class="soft">Endurance and range without reserve, climb or taxi. Your handbook’s figures come first.</p>
        </section>
        <div>
          <section v-if="plan.climb.length" aria-label="Climb">
            <h2>Climb</h2>
            <table>
              <thead>
                <tr>
                  <th>To ft</th>
                  <th>Rate ft/min</th>
                  <th>Minutes</th>
                  <th>Fuel {{ display.label('gal') }}</th>
                  <th>Distance nm</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="row in plan.climb" :key="row.palt_ft">
                  <td>{{ row.palt_ft }}</td>
                  <td>{{ row.rate_fpm }}</td>
                  <td>{{ row.minutes }}</td>
                  <td>{{ display.figure(row.fuel_gal, 'gal') }}</td>
                  <td>{{ row.distance_nm }}</td>
                </tr>
              </tbody>
            </table>
          </section>
          <section v-if="plan.tanks" aria-label="Tanks">
            <h2>Tanks at {{ display.figure(plan.tanks.ff_gph, 'gph') }} {{ display.label('gph') }}</h2>
            <table>
              <thead>
                <tr>
                  <th>After</th>
                  <th class="words">To tank</th>
                  <th>In it {{ display.label('gal') }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(row, n) in plan.tanks.changes" :key="n">
                  <td>{{ clock(row.minutes) }}</td>
                  <td class="words">{{ row.tank }}</td>
                  <td>{{ display.figure(row.left_gal, 'gal') }}</td>
                </tr>
              </tbody>
            </table>
            <p>
              Reserve of {{ plan.tanks.reserve_min }} min reached after <b>{{ clock(plan.tanks.reserve_minutes) }}</b>.
            </p>
            <p class="soft">
              The thirstiest setting above, fuel spread evenly, without climb or taxi. Dip them: gauges and plans are
              wrong at times.
            </p>
          </section>
        </div>
      </div>
      <PlanPictures :plan="plan" :targets="page?.targets ?? []" :here-ft="Number(asked.palt_ft || 0)" />
    </template>
  </main>
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 18px;
  align-items: end;
}
.asked label {
  display: grid;
  gap: 2px;
}
.asked input {
  width: 120px;
  min-height: 48px;
  padding: 0 10px;
  font: inherit;
  font-size: 20px;
}
.asked select {
  width: 250px;
}
.halves {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 12px 32px;
}
table {
  border-collapse: collapse;
  text-align: left;
}
th,
td {
  padding: 2px 14px 2px 0;
  font-variant-numeric: tabular-nums;
}
.words {
  text-align: left;
}
h2 {
  font-size: 22px;
}
@media print {
  .asked,
  header nav {
    display: none;
  }
}
</style>

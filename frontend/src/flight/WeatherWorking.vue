<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { answer, api } from '@/api/client'
import type { BodyOf } from '@/api/letters'
import type { Air, AirReport } from '@/api/schema'
import { useSending } from '@/api/useAnswer'
import { useDisplay } from '@/parts/display'
import { useTypedUnits } from '@/parts/useTypedUnits'
import { useFlight } from './flight'

/** The air at the field: asked from the weather service, or typed; and what follows from it for engine and run-up. */
const props = defineProps<{
  /** What is known, or null. */
  air: Air | null
}>()
const flight = useFlight()
const display = useDisplay()
const station = useLocalStorage('home_field', 'ZZLK')
const report = ref<Partial<AirReport>>({})
const FIELDS: [keyof Air, string, string][] = [
  ['oat_c', 'Temperature', 'c'],
  ['dewpoint_c', 'Dew point', 'c'],
  ['altimeter_inhg', 'Pressure', 'inhg'],
  ['wind_from_deg', 'Wind from', '°'],
  ['wind_kt', 'Wind', 'kt'],
  ['elevation_ft', 'Field', 'ft'],
  ['runway_deg', 'Runway heading', '°'],
]
const typed = ref<Record<string, string>>(shownFrom(props.air ?? {}))
useTypedUnits(typed, Object.fromEntries(FIELDS.map(([name, , unit]) => [name, unit])))

function shownFrom(air: Partial<Air & AirReport>): Record<string, string> {
  const out: Record<string, string> = {}
  for (const [name, , unit] of FIELDS) {
    const value = air[name] as number | null | undefined
    if (value === null || value === undefined) continue
    out[name] =
      unit === 'inhg' ? display.figure(value, unit) : String(Math.round(display.number(value, unit) * 10) / 10)
  }
  return out
}

const {
  problem,
  isSending: isAsking,
  go: ask,
} = useSending(async () => {
  const params = { path: { station: station.value } }
  const told = await answer(api.GET('/api/weather/{station}', { params }))
  report.value = told.report
  typed.value = { ...typed.value, ...shownFrom(told.report) }
})
function use() {
  const body: Record<string, unknown> = { source: report.value.text ? 'metar' : 'typed' }
  if (report.value.text) body.text = report.value.text
  for (const [name, , unit] of FIELDS) {
    const text = typed.value[name]?.trim()
    if (!text) continue
    body[name] = Math.round(display.toCore(Number(text.replace(',', '.')), unit) * 1000) / 1000
  }
  void flight.event('weather', body as BodyOf<'weather'>)
}
const says = computed(() => {
  const air = props.air
  if (!air) return []
  const lines: string[] = []
  if (air.density_altitude_ft !== null)
    lines.push(
      `Density altitude ${display.withUnit(air.density_altitude_ft, 'ft')} (pressure altitude ${display.withUnit(air.pressure_altitude_ft, 'ft')}).`,
    )
  if (air.icing) lines.push(`Carburettor ice: ${air.icing}.`)
  if (air.face_deg !== null)
    lines.push(`For the run-up turn to ${String(air.face_deg).padStart(3, '0')} to face the wind.`)
  if (air.headwind_kt !== null)
    lines.push(
      `${air.headwind_kt < 0 ? 'TAILWIND' : 'Headwind'} ${Math.abs(air.headwind_kt)} kt, ${air.crosswind_kt} kt from the ${air.crosswind_from}${air.gust_kt ? ' in gusts' : ''}.`,
    )
  if (air.wind_note) lines.push(air.wind_note)
  return lines
})
</script>

<template>
  <section class="weather" aria-label="Weather">
    <p v-for="line in says" :key="line" class="says">{{ line }}</p>
    <p v-if="air?.text" class="soft">{{ air.text }}</p>
    <div class="row">
      <label>Station <input v-model="station" maxlength="4" autocomplete="off" /></label>
      <button type="button" :disabled="isAsking" @click="ask">
        {{ isAsking ? 'Asking …' : 'Ask the weather service' }}
      </button>
      <p v-if="problem" class="look" role="alert">{{ problem }}</p>
    </div>
    <div class="row">
      <label v-for="[name, title, unit] in FIELDS" :key="name">
        {{ title }} {{ display.label(unit) || unit }}
        <input v-model="typed[name]" inputmode="decimal" autocomplete="off" />
      </label>
      <button type="button" @click="use">Use these</button>
    </div>
  </section>
</template>

<style scoped>
.weather {
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  gap: 8px 14px;
  flex-wrap: wrap;
  align-items: end;
}
label {
  display: grid;
}
input {
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 2px solid var(--edge);
  border-radius: 8px;
  min-height: 48px;
  width: 110px;
  padding: 0 10px;
}
.says {
  font-size: 22px;
}
</style>

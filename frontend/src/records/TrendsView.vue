<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import type { TrendRow } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'
import UseSwitch from './UseSwitch.vue'

/** Each figure of an aircraft over its flights, with its limit, and a sentence for the mechanic where it is going there. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const practice = ref<boolean>()
const {
  answer: trends,
  problem,
  ask,
} = useAnswer(() => {
  const query = practice.value === undefined ? {} : { practice: practice.value }
  return answer(api.GET('/api/aircraft/{profile_id}/trends', { params: { ...params, query } }))
})
watch(practice, ask)
const A_MINUTE_S = 60
const router = useRouter()
const toFlight = (f: TrendRow, place: number) => f.points[place] && router.push(`/records/${f.points[place]!.flight}`)
const data = (f: TrendRow) => [
  f.points.map((p, n) => Date.parse(p.day) / 1000 + n * A_MINUTE_S), // two flights of one day stay apart
  f.points.map((p) => display.number(p.value, f.unit)),
  f.points.map(() => (f.limit === null ? null : display.number(f.limit, f.unit))),
]
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: trends?.aircraft.registration }"
    :gauges="trends?.aircraft"
    title="Trends"
    :problem="problem"
    :waiting="!trends"
  >
    <UseSwitch v-if="trends" v-model="practice" :use="trends.use" />
    <p v-if="trends && !trends.figures.length" class="sentence">No flight with a check is recorded yet.</p>
    <p v-for="h in trends?.health" :key="h.say" class="look">
      <b>{{ display.sentence(h.say) }}</b>
    </p>
    <div v-if="trends" class="figures">
      <section v-for="f in trends.figures" :key="f.id" :aria-label="f.title">
        <h2>{{ f.title }}</h2>
        <p :class="{ look: f.trend.message }">{{ display.sentence(f.trend.summary) }}</p>
        <div class="plot">
          <LiveTrace
            :data="data(f)"
            :lines="[
              { label: f.title, scale: 'y', width: 2, points: true },
              { label: 'Limit', scale: 'y', dash: [8, 6] },
            ]"
            :axis="{ x: '', y: display.label(f.unit), dates: true }"
            :label="`${f.title} over ${f.points.length} flights; dashed its limit`"
            @picked="(place) => toFlight(f, place)"
          />
        </div>
        <details>
          <summary>As a table{{ f.limit === null ? '' : `, limit ${display.withUnit(f.limit, f.unit)}` }}</summary>
          <table>
            <tbody>
              <tr v-for="p in [...f.points].reverse()" :key="p.flight">
                <td>
                  <RouterLink :to="`/records/${p.flight}`">{{ p.day }}</RouterLink>
                </td>
                <td>{{ display.withUnit(p.value, f.unit) }}</td>
              </tr>
            </tbody>
          </table>
        </details>
      </section>
    </div>
    <p class="soft">
      Dashed: the limit. A tap on a dot opens its flight. Drops are brought to the type’s run-up RPM. A mechanic
      decides. {{ trends?.looks_back }}
    </p>
  </PageFrame>
</template>

<style scoped>
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 12px 24px;
}
h2 {
  font-size: 22px;
}
summary,
td a {
  min-height: 48px;
  padding-top: 12px;
}
td {
  padding-right: 20px;
}
.plot {
  position: relative;
  height: 200px;
}
</style>

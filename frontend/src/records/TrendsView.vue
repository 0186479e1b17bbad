<script setup lang="ts">
import { ref, watch } from 'vue'
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
const data = (f: TrendRow) => [
  f.points.map((_, n) => n + 1),
  f.points.map((p) => display.number(p.value, f.unit)),
  f.points.map(() => (f.limit === null ? null : display.number(f.limit, f.unit))),
]
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: trends?.aircraft.registration }"
    title="Trends"
    :problem="problem"
    :waiting="!trends"
  >
    <UseSwitch v-if="trends" v-model="practice" :use="trends.use" />
    <p v-if="trends && !trends.figures.length" class="sentence">No flight with a check is recorded yet.</p>
    <p v-for="h in trends?.health" :key="h.say" class="look">
      <b>{{ h.say }}</b>
    </p>
    <div v-if="trends" class="figures">
      <section v-for="f in trends.figures" :key="f.id" :aria-label="f.title">
        <h2>{{ f.title }}</h2>
        <p :class="{ look: f.trend.message }">{{ f.trend.summary }}</p>
        <div class="plot">
          <LiveTrace
            :data="data(f)"
            :lines="[
              { label: f.title, scale: 'y', width: 3 },
              { label: 'Limit', scale: 'y', dash: [8, 6] },
            ]"
            :axis="{ x: 'Flight', y: display.label(f.unit), counted: true }"
            :label="`${f.title} over ${f.points.length} flights; dashed its limit`"
          />
        </div>
      </section>
    </div>
    <p class="soft">
      Dashed: the limit. Drops are brought to the type’s run-up RPM. A mechanic decides. {{ trends?.looks_back }}
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
.plot {
  position: relative;
  height: 200px;
}
</style>

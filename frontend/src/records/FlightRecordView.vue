<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import LiveTrace from '@/parts/LiveTrace.vue'
import PageFrame from '@/parts/PageFrame.vue'
import FindingCard from '@/parts/FindingCard.vue'
import { useDisplay } from '@/parts/display'
import TimelineByPhase from './TimelineByPhase.vue'
import { KINDS, length, when } from './words'

/** One flight: a sentence, its trace, what was judged, and the timeline of what was done. */
const props = defineProps<{
  /** The flight's id. */
  id: string
}>()
const display = useDisplay()
const params = { path: { flight_id: props.id } }
const { answer: record, problem, ask } = useAnswer(() => answer(api.GET('/api/flights/{flight_id}', { params })))
const note = ref('')
watch(record, (now) => (note.value = now?.flight.note ?? ''))
const { problem: problemOfNote, go: keepNote } = useSending(async () => {
  await answer(api.POST('/api/flights/{flight_id}/note', { params, body: { note: note.value } }))
})
const { go: hide } = useSending(async (hidden: boolean) => {
  await answer(api.POST('/api/flights/{flight_id}/hidden', { params, body: { hidden } }))
  await ask()
})
const { answer: trace } = useAnswer(() => answer(api.GET('/api/flights/{flight_id}/trace', { params })))

const data = computed(() => {
  const t = trace.value
  if (!t) return [[0], [null], [null]]
  const egts = t.mean_egt_f?.map((egt) => (egt === null ? null : display.number(egt, 'f')))
  const none = t.time_s.map(() => null)
  return [t.time_s.map((s) => s / 60), t.rpm ?? none, egts ?? none]
})
const title = computed(() => {
  const flight = record.value?.flight
  return flight && `${flight.registration}, ${when(flight.started_utc)}, ${flight.pilot}`
})
const grave = computed(() => (record.value?.findings ?? []).filter((f) => f.verdict !== 'within'))
const within = computed(() => (record.value?.findings ?? []).filter((f) => f.verdict === 'within'))
const open = computed(() => (record.value?.open ?? []).map(({ phase, count }) => `${phase} ${count}`).join(', '))
const lines = [
  { label: 'RPM', scale: 'rpm' },
  { label: 'EGT', scale: 'egt', dash: [6, 4] },
]
</script>

<template>
  <PageFrame :title="title ?? 'Record'" :problem="problem" :waiting="!record">
    <template v-if="record">
      <p class="sentence">{{ display.sentence(record.sentence) }}</p>
      <p v-if="record.practised" class="practised"><b>Practised:</b> {{ record.practised }}</p>
      <p v-if="open && record.flight.source !== 'file'" class="look">Left open: {{ open }}.</p>
      <div v-if="trace" class="picture">
        <LiveTrace
          :data="data"
          :lines="lines"
          :axis="{ x: 'minutes', y: 'RPM', y2: `mean EGT ${display.label('f')}` }"
          label="RPM and mean EGT over the flight"
        />
      </div>
      <p class="ways">
        <span class="soft">{{ KINDS[record.flight.kind] }}, {{ length(record.flight.length_s) }}</span>
        <a v-if="trace" :href="`/api/flights/${id}/trace.csv`" download>Trace as CSV</a>
        <a :href="`/api/flights/${id}/flight.zip`" download>Save the flight as a file</a>
        <button v-if="record.flight.ended" type="button" @click="hide(!record.flight.hidden)">
          {{ record.flight.hidden ? 'Bring it back into the records' : 'Delete' }}
        </button>
      </p>
      <p v-if="record.flight.hidden" class="look" role="status">
        Out of the records. It is removed for good on the page <RouterLink to="/settings">Settings</RouterLink>.
      </p>
      <label class="note"
        >Note
        <el-input v-model="note" type="textarea" autosize maxlength="2000" @change="keepNote" />
      </label>
      <p v-if="problemOfNote" class="look" role="alert">{{ problemOfNote }}</p>
      <div class="title">
        <h2>Judged</h2>
        <RouterLink :to="`/aircraft/${record.aircraft.id}/method`">How verdicts are made</RouterLink>
      </div>
      <div class="findings"><FindingCard v-for="f in grave" :key="f.event" :finding="f" /></div>
      <details v-if="within.length">
        <summary>
          {{ within.length }} within limits: {{ within.map((f) => f.title).join(', ') }}. That is no permission to fly.
        </summary>
        <div class="findings"><FindingCard v-for="f in within" :key="f.event" :finding="f" /></div>
      </details>
      <h2>Timeline</h2>
      <TimelineByPhase :lines="record.timeline" />
    </template>
  </PageFrame>
</template>

<style scoped>
.picture {
  position: relative;
  height: 280px;
  margin: 10px 0;
}
h2 {
  font-size: var(--mid);
  margin: 24px 0 8px;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0 24px;
  align-items: center;
}
.ways a,
.title a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
}
summary {
  min-height: 48px;
  padding-top: 12px;
  cursor: pointer;
}
.note {
  display: block;
  max-width: 78ch;
}
.title {
  display: flex;
  flex-wrap: wrap;
  gap: 0 24px;
  align-items: baseline;
}
.findings {
  display: grid;
  gap: 20px;
}
</style>

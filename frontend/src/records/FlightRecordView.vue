<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import FindingCard from '@/parts/FindingCard.vue'
import { useDisplay } from '@/parts/display'
import FlightTrace from './FlightTrace.vue'
import TimelineByPhase from './TimelineByPhase.vue'
import WithinTable from './WithinTable.vue'
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
const title = computed(() => {
  const flight = record.value?.flight
  return flight && `${flight.registration}, ${when(flight.started_utc)}, ${flight.pilot}`
})
const grave = computed(() => (record.value?.findings ?? []).filter((f) => f.verdict !== 'within'))
const within = computed(() => (record.value?.findings ?? []).filter((f) => f.verdict === 'within'))
const open = computed(() => (record.value?.open ?? []).map(({ phase, count }) => `${phase} ${count}`).join(', '))
</script>

<template>
  <PageFrame :title="title ?? 'Record'" :gauges="record?.aircraft" :problem="problem" :waiting="!record">
    <template v-if="record">
      <p class="sentence">{{ display.sentence(record.sentence) }}</p>
      <p v-if="record.drill">
        <RouterLink class="key out" :to="`/records/${id}/debrief`">Debrief of this drill</RouterLink>
      </p>
      <p v-if="record.practised" class="practised"><b>Practised:</b> {{ record.practised }}</p>
      <p v-if="open && record.flight.source !== 'file'" class="look">Left open: {{ open }}.</p>
      <FlightTrace v-if="record.flight.kind !== 'by_hand'" :id="id" :flags="record.flags" />
      <p class="ways">
        <span class="soft">{{ KINDS[record.flight.kind] }}, {{ length(record.flight.length_s) }}</span>
        <a v-if="record.flight.kind !== 'by_hand'" :href="`/api/flights/${id}/trace.csv`" download>Trace as CSV</a>
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
        <WithinTable :findings="within" />
      </details>
      <h2>Timeline</h2>
      <TimelineByPhase :lines="record.timeline" />
    </template>
  </PageFrame>
</template>

<style scoped>
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

<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import type { ShownFinding } from '@/api/schema'
import { useAnswer } from '@/api/useAnswer'
import LiveTrace from '@/parts/LiveTrace.vue'
import { useDisplay } from '@/parts/display'
import { clock } from './words'

/** The trace of a flight: flags that jump to what was judged, a closer look, and every channel read off under the cursor. */
const props = defineProps<{
  /** The flight's id. */
  id: string
  /** What was judged, in order of time. */
  flags: ShownFinding[]
}>()
const display = useDisplay()
const BESIDE_S = 45 // seen before and after what a flag stands for
const part = ref<[number, number]>()
/** The flight time that is read off [s]; it stays where it is when a closer look comes. */
const at = ref(-Infinity)
const { answer: trace, ask } = useAnswer(() => {
  const query = part.value ? { from_s: part.value[0], to_s: part.value[1] } : {}
  return answer(api.GET('/api/flights/{flight_id}/trace', { params: { path: { flight_id: props.id }, query } }))
})
const times = computed(() => trace.value?.time_s ?? [])
watch(part, ask)
const under = computed(() => {
  const after = times.value.findIndex((s) => s >= at.value)
  return after < 0 ? Math.max(times.value.length - 1, 0) : after
})
const read = (place: number) => (at.value = times.value[place] ?? at.value)

const data = computed(() => {
  const t = trace.value
  const none = times.value.map(() => null)
  const egts = t?.mean_egt_f?.map((egt) => (egt === null ? null : display.number(egt, 'f')))
  return [times.value.map((s) => s / 60), t?.rpm ?? none, egts ?? none]
})
const marks = computed(() => props.flags.map((f, k) => ({ at: f.start_s / 60, text: String(k + 1) })))
/** Every channel at the cursor, as it is shown. */
const channels = computed(() =>
  (trace.value?.channels ?? []).map((channel) => {
    const value = channel.words?.[under.value] ?? channel.values?.[under.value] ?? null
    const shown = typeof value === 'number' ? display.withUnit(value, channel.unit) : (value ?? '–')
    return { id: channel.id, title: channel.title, shown }
  }),
)
/** What the speed is drawn in: where there is only a percent tachometer, percent. */
const speed = computed(() => {
  const shown = new Set(channels.value.map((channel) => channel.id))
  return shown.has('rpm_pct') && !shown.has('rpm') ? 'RPM, %' : 'RPM'
})
const now = computed(() => clock(times.value[under.value] ?? 0))

function look(from: number, to: number) {
  if (!trace.value) return
  const { start_s, end_s } = trace.value
  const isWhole = from <= start_s && to >= end_s
  part.value = isWhole ? undefined : [Math.max(from, start_s), Math.min(to, end_s)]
}
function jump(finding: ShownFinding) {
  at.value = finding.start_s
  look(finding.start_s - BESIDE_S, finding.end_s + BESIDE_S)
}
/** Half, or double, of what is seen, around the cursor. */
function scale(by: number) {
  const [first, last, middle] = [times.value[0], times.value.at(-1), times.value[under.value]]
  if (first === undefined || last === undefined || middle === undefined) return
  const half = Math.max(((last - first) * by) / 2, 5)
  look(middle - half, middle + half)
}
const lines = [
  { label: 'RPM', scale: 'rpm' },
  { label: 'EGT', scale: 'egt', dash: [6, 4] },
]
</script>

<template>
  <section v-if="trace && times.length" class="flight-trace" aria-label="Trace">
    <p class="flags">
      <button v-for="(f, k) in flags" :key="f.event" type="button" @click="jump(f)">
        <b>{{ k + 1 }}</b> {{ f.title }} <span class="soft">{{ clock(f.start_s) }}</span>
      </button>
    </p>
    <div class="picture">
      <LiveTrace
        :data="data"
        :lines="lines"
        :marks="marks"
        :axis="{ x: 'minutes', y: speed, y2: `mean EGT ${display.label('f')}` }"
        label="RPM and mean EGT over the flight"
        explores
        :under="under"
        @under="read"
        @stretch="(from, to) => look(from * 60, to * 60)"
      />
    </div>
    <div class="where">
      <label>
        <span>At {{ now }}</span>
        <input
          type="range"
          min="0"
          :value="under"
          :max="times.length - 1"
          :aria-valuetext="`${now} of flight time`"
          @input="read(Number(($event.target as HTMLInputElement).value))"
        />
      </label>
      <button type="button" @click="scale(0.5)">Closer</button>
      <button v-if="part" type="button" @click="scale(2)">Wider</button>
      <button v-if="part" type="button" @click="part = undefined">Whole flight</button>
    </div>
    <dl>
      <div v-for="row in channels" :key="row.id">
        <dt class="soft">{{ row.title }}</dt>
        <dd>{{ row.shown }}</dd>
      </div>
    </dl>
  </section>
</template>

<style scoped>
.flags {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 10px 0;
}
.picture {
  position: relative;
  height: 280px;
}
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.where label {
  flex: 1 1 300px;
  display: flex;
  gap: 12px;
  align-items: center;
}
.where span {
  flex: 0 0 90px;
}
input {
  flex: 1;
  height: 48px;
  accent-color: var(--key);
}
dl {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 2px 20px;
  margin: 8px 0;
}
dl div {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  border-bottom: 1px solid var(--line);
}
dd {
  margin: 0;
  white-space: nowrap;
}
</style>

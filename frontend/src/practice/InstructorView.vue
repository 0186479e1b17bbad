<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { answer, api } from '@/api/client'
import type { WaitingFault } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import InstrumentColumn from '@/flight/InstrumentColumn.vue'
import { useFlight } from '@/flight/flight'
import { useDisplay } from '@/parts/display'
import PageFrame from '@/parts/PageFrame.vue'

/** The instructor's window, beside the pilot's on this machine: sees what the pilot sees, gives faults, lets time stand, writes notes. */
const flight = useFlight()
const display = useDisplay()
const frame = computed(() => flight.frame)
const isFrozen = ref(false)
const fault = ref('')
const size = ref(1)
const when = ref<'now' | 'time' | 'height'>('now')
const value = ref('')
const note = ref('')
const problem = ref('')
onMounted(() => flight.open().catch((error: Error) => (problem.value = error.message)))
onBeforeUnmount(() => flight.close())
const aircraft = computed(() => frame.value?.aircraft)
const { answer: known, ask } = useAnswer(async () =>
  aircraft.value
    ? answer(api.GET('/api/aircraft/{profile_id}/faults', { params: { path: { profile_id: aircraft.value } } }))
    : { faults: [] },
)
watch(aircraft, () => void ask())
/** Faults that wait for their time or height: the server keeps them, whether this window is open or not. */
const waiting = shallowRef<WaitingFault[]>([])
const dueText = (one: WaitingFault) =>
  one.from_s != null ? `at ${one.from_s} s` : `from ${display.withUnit(one.from_ft, 'ft')}`
const saysOf = (name: string) => known.value?.faults.find((one) => one.name === name)?.says ?? name
const {
  problem: notGiven,
  isSending,
  go: give,
} = useSending(async (name: string, much: number) => {
  await answer(api.POST('/api/live/fault', { body: { name, size: much } }))
  await flight.event('remark', { text: `Instructor: ${saysOf(name)}` })
})
const { problem: notKept, go: giveLater } = useSending(async (from: number) => {
  const due = when.value === 'time' ? { from_s: from } : { from_ft: from }
  await answer(api.POST('/api/live/fault', { body: { name: fault.value, size: size.value, ...due } }))
  await look()
})
function set() {
  if (when.value === 'now') return void give(fault.value, size.value)
  const from = value.value.trim() ? Number(value.value.replace(',', '.')) : NaN
  if (!Number.isFinite(from)) return void (problem.value = 'Type a time in seconds, or a height in feet.')
  problem.value = ''
  void giveLater(from)
}
async function look() {
  const told = await answer(api.GET('/api/live/faults')).catch(() => null)
  waiting.value = told?.waiting ?? []
}
async function takeBack(place: number) {
  waiting.value = (await answer(api.DELETE('/api/live/faults/{place}', { params: { path: { place } } }))).waiting
}
watch(
  () => frame.value && `${frame.value.flight} ${Math.floor(frame.value.at_s / 2)}`,
  (now) => now && frame.value?.source === 'bench' && void look(),
)
const { problem: notStood, go: freeze } = useSending(async () => {
  const next = !isFrozen.value
  await answer(api.POST('/api/live/freeze', { body: { frozen: next } }))
  isFrozen.value = next
})
async function write() {
  await flight.event('remark', { text: `Instructor: ${note.value.trim()}` })
  note.value = ''
}
</script>

<template>
  <PageFrame title="Instructor" :problem="problem || notGiven || notKept || notStood">
    <p v-if="!frame" role="status">No flight goes on. Begin one in the pilot's window; this one follows it.</p>
    <div v-else class="halves">
      <section aria-label="What the pilot sees">
        <p class="sentence">{{ frame.registration }}: {{ frame.phase_title }}, {{ Math.floor(frame.at_s) }} s</p>
        <p v-if="frame.drill">
          <b>{{ frame.drill.title }}.</b> Named: {{ frame.drill.said ?? 'nothing yet' }}. Decided:
          {{ frame.drill.decided ?? 'nothing yet' }}.
        </p>
        <p v-if="frame.item">
          Now: <b>{{ frame.item.challenge }}</b> {{ display.sentence(frame.item.response, frame.item.unit) }}
        </p>
        <InstrumentColumn :instruments="frame.instruments" :stale="frame.stale" :has-cylinders="false" />
      </section>
      <section aria-label="What the instructor does">
        <button type="button" class="main" :aria-pressed="isFrozen" @click="freeze()">
          {{ isFrozen ? 'Time goes on' : 'Let time stand' }}
        </button>
        <h2>A fault</h2>
        <el-select v-model="fault" filterable placeholder="Which" aria-label="Fault" size="large">
          <el-option v-for="one in known?.faults ?? []" :key="one.name" :value="one.name" :label="one.says" />
        </el-select>
        <p class="row" role="group" aria-label="When">
          <button type="button" :aria-pressed="when === 'now'" @click="when = 'now'">Now</button>
          <button type="button" :aria-pressed="when === 'time'" @click="when = 'time'">At a time</button>
          <button type="button" :aria-pressed="when === 'height'" @click="when = 'height'">At a height</button>
          <el-input
            v-if="when !== 'now'"
            v-model="value"
            inputmode="decimal"
            size="large"
            :aria-label="when === 'time' ? 'Flight time, seconds' : 'Pressure altitude, feet'"
            :placeholder="when === 'time' ? 'seconds of flight' : 'feet'"
          />
        </p>
        <p class="row" role="group" aria-label="How much">
          <button v-for="one in [0.5, 1, 0]" :key="one" type="button" :aria-pressed="size === one" @click="size = one">
            {{ one === 0 ? 'Mend it' : one === 1 ? 'Whole' : 'Half' }}
          </button>
          <button type="button" class="main" :disabled="!fault || isSending" @click="set">Give it</button>
        </p>
        <ul v-if="waiting.length">
          <li v-for="(one, place) in waiting" :key="place">
            {{ saysOf(one.name) }} <b>{{ dueText(one) }}</b>
            <button type="button" class="plain" @click="takeBack(place)">Take it back</button>
          </li>
        </ul>
        <h2>A note</h2>
        <form class="row" @submit.prevent="write">
          <el-input v-model="note" aria-label="Note" size="large" maxlength="300" />
          <button type="submit" :disabled="!note.trim()">Keep</button>
        </form>
        <p class="soft">
          This window works on this machine. What waits comes though it is closed; the pilot reads of it in the debrief
          or the record.
        </p>
      </section>
    </div>
  </PageFrame>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 24px;
}
section {
  display: grid;
  gap: 8px;
  align-content: start;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.row .el-input {
  flex: 1 1 160px;
}
h2 {
  margin-top: 12px;
  font-size: 22px;
}
.main {
  font-size: 22px;
  min-height: 56px;
}
@media (max-width: 800px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

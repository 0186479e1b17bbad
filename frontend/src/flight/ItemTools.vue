<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { BodyOf } from '@/api/letters'
import type { ShownItem } from '@/api/schema'
import NumberPad from '@/parts/NumberPad.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'
import InSpite from './InSpite.vue'

/** What an item asks for beside a word: a clock to hold, a count, a figure read off; and the ways not to do it now. */
const props = defineProps<{
  /** The current item. */
  item: ShownItem
  /** A STOP stands against it: going on is small and deliberate, and stays on record. */
  stopped?: boolean
  /** Its control is marked on the photo of the panel. */
  hasPhoto?: boolean
}>()
defineEmits<{
  /** Show where it is. */
  where: []
}>()
const flight = useFlight()
const display = useDisplay()
const asks = ref(false)
const typed = ref('')
type How = BodyOf<'item_set_aside'>['how']
const REASONS: [How, string][] = [
  ['deferred', 'Later: busy now'],
  ['deferred', 'Later: waiting for it'],
  ['not_applicable', 'Not fitted'],
  ['not_applicable', 'Not needed today'],
  ['skipped', 'Not possible'],
]
watch(
  () => props.item.id,
  () => {
    asks.value = false
    typed.value = ''
  },
)
const measure = computed(() => props.item.measure)
const held = computed(() => props.item.held_left_s)
const limits = computed(() => {
  const m = measure.value
  if (!m) return ''
  const text = (v: number) => `${Number(display.number(v, m.unit).toFixed(1))} ${display.label(m.unit)}`
  if (m.lowest !== null && m.highest !== null) return `${text(m.lowest)} to ${text(m.highest)}`
  return m.lowest !== null ? `at least ${text(m.lowest)}` : m.highest !== null ? `at most ${text(m.highest)}` : ''
})
function take() {
  const value = Number(typed.value)
  if (typed.value === '' || Number.isNaN(value) || !measure.value) return
  void flight.event('item_measured', { item: props.item.id, value: display.toCore(value, measure.value.unit) })
  typed.value = ''
}
function setAside([how, reason]: [How, string]) {
  asks.value = false
  void flight.event('item_set_aside', { item: props.item.id, how, reason })
}
</script>

<template>
  <div class="tools">
    <p v-if="hasPhoto"><button type="button" @click="$emit('where')">Show where it is</button></p>
    <div v-if="item.hold_s !== null" class="row">
      <button type="button" @click="flight.event('timer_started', { item: item.id })">
        {{ held === null ? `Start ${item.hold_s} s` : 'Start again' }}
      </button>
      <p v-if="held !== null">
        <b class="big" :class="{ within: held === 0 }">{{ Math.ceil(held) }}</b> s
        {{ held === 0 ? '✓ time' : 'to hold' }}
      </p>
    </div>
    <div v-if="item.count_to !== null" class="row">
      <button type="button" class="count" @click="flight.event('counted', { item: item.id, by: 1 })">
        Count one {{ item.count_of === 'cycles' ? 'cycle' : item.count_of?.slice(0, -1) }}
      </button>
      <p>
        <b class="big" :class="{ within: (item.count ?? 0) >= item.count_to }">{{ item.count }}</b> of
        {{ item.count_to }} {{ item.count_of }}{{ (item.count ?? 0) >= item.count_to ? ' ✓' : '' }}
      </p>
    </div>
    <div v-if="measure" class="row measure">
      <p>
        <small>{{ measure.title }}, {{ limits }}</small>
        <b class="big" :class="{ within: measure.within, look: measure.within === false }">{{
          typed || display.figure(measure.value, measure.unit)
        }}</b>
        {{ display.label(measure.unit) }}
        <span v-if="measure.within !== null">{{ measure.within ? '✓ within' : 'out of limits: look' }}</span>
      </p>
      <NumberPad v-model="typed" decimals @done="take" />
    </div>
    <InSpite
      v-if="stopped"
      :key="item.id"
      say="Go on in spite of STOP …"
      @on="(words) => setAside(['skipped', words])"
    />
    <button v-else type="button" class="plain aside" :aria-expanded="asks" @click="asks = !asks">Not now …</button>
    <div v-if="asks" class="row" role="group" aria-label="Why not now">
      <button v-for="reason in REASONS" :key="reason[1]" type="button" @click="setAside(reason)">
        {{ reason[1] }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.row {
  display: flex;
  gap: 8px 18px;
  align-items: center;
  flex-wrap: wrap;
}
.big {
  font-size: var(--big);
  line-height: 1;
}
.count {
  min-height: 68px;
  min-width: 180px;
  font-size: var(--mid);
}
.measure small {
  display: block;
  font-size: var(--small);
}
.aside {
  padding: 0;
  text-decoration: underline;
}
</style>

<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { Instrument } from '@/api/schema'
import NumberPad from '@/parts/NumberPad.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** The phase's needles where no wire tells them: each is read out and typed, with its age; they count like measured ones while they are
 * fresh. */
const props = defineProps<{
  /** The needles of this phase. */
  instruments: Instrument[]
}>()
const flight = useFlight()
const display = useDisplay()
const open = ref('')
const text = ref('')
const pad = useTemplateRef<HTMLElement>('pad')
const WORDS = { ok: '', none: '', low: 'LOW', high: 'HIGH' }
/** By how much a figure is moved in one touch, small and large, in the unit that is shown. */
const STEPS: Record<string, [number, number]> = {
  rpm: [10, 50],
  inhg: [0.5, 2],
  psi: [1, 5],
  f: [5, 25],
  kt: [5, 20],
  ft: [100, 500],
  v: [0.1, 1],
  gph: [0.5, 2],
  a: [1, 5],
}
const one = computed(() => props.instruments.find((i) => i.id === open.value))
const steps = computed<[number, number]>(() => STEPS[one.value?.unit ?? ''] ?? [1, 5])
const moves = computed(() => [-steps.value[1], -steps.value[0], steps.value[0], steps.value[1]])
/** While one is typed the others give way: the pad is whole on a small screen. */
const shown = computed(() => (one.value ? [one.value] : props.instruments))
const isWhole = computed(() => Number.isInteger(steps.value[0]))

async function choose(i: Instrument) {
  open.value = open.value === i.id ? '' : i.id
  text.value = ''
  await nextTick()
  pad.value?.scrollIntoView({ block: 'nearest' }) // on a phone it opens below the edge
}
/** Move the figure that is typed, or the last one. */
function move(by: number) {
  const from = text.value || (one.value?.value == null ? '0' : display.typed(one.value.value, one.value.unit))
  const moved = Math.max(Number(from) + by, 0)
  text.value = isWhole.value ? String(Math.round(moved)) : moved.toFixed(1)
}
function take() {
  const typed = one.value
  if (!typed || !text.value.trim() || !Number.isFinite(Number(text.value))) return
  void flight.event('needle_read', { needle: typed.id, value: display.toCore(Number(text.value), typed.unit) })
  open.value = ''
}
function same() {
  if (one.value?.value == null) return
  void flight.event('needle_read', { needle: one.value.id, value: one.value.value })
  open.value = ''
}
function age(i: Instrument): string {
  if (i.age_s === null) return i.value === null ? 'tap to type' : 'heard'
  return i.age_s < 60 ? 'typed just now' : `typed ${Math.floor(i.age_s / 60)} min ago`
}
</script>

<template>
  <section class="typed" aria-label="Needles, typed">
    <p v-if="!one" class="soft">You read the needles: tap one and type it. It counts while it is fresh.</p>
    <ul>
      <li v-for="i in shown" :key="i.id">
        <button
          type="button"
          :aria-expanded="open === i.id"
          :class="{ stop: i.state === 'low' || i.state === 'high', soft: i.value === null }"
          @click="choose(i)"
        >
          <span class="name">{{ i.label }}</span>
          <span class="figure">{{ display.figure(i.value, i.unit) }}</span>
          <span class="unit"
            >{{ display.label(i.unit) }} <b v-if="WORDS[i.state]">{{ WORDS[i.state] }}</b></span
          >
          <span class="age">{{ age(i) }}</span>
        </button>
      </li>
    </ul>
    <div v-if="one" ref="pad" class="pad" role="group" :aria-label="`${one.label}: type it`">
      <p>
        {{ one.label }}: <b>{{ text || '–' }}</b> {{ display.label(one.unit) }}
      </p>
      <div class="steps">
        <button v-for="by in moves" :key="by" type="button" @click="move(by)">
          {{ by > 0 ? `+${by}` : `−${-by}` }}
        </button>
      </div>
      <button v-if="one.value !== null" type="button" class="same" @click="same">
        Same as before: {{ display.withUnit(one.value, one.unit) }}
      </button>
      <NumberPad v-model="text" :decimals="!isWhole" @done="take" />
    </div>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
li button {
  width: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 84px;
  align-items: baseline;
  gap: 0 8px;
  text-align: left;
  padding: 4px 10px;
  line-height: 1.2;
}
.figure {
  font-size: var(--mid);
  font-weight: 700;
}
.age {
  grid-column: 1 / -1;
  font-size: 16px;
  color: var(--soft);
}
.pad {
  display: grid;
  gap: 6px;
  margin-top: 8px;
}
.pad p {
  margin: 0;
  font-size: var(--mid);
}
.steps {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}
</style>

<script setup lang="ts">
import { useThrottleFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { answer, api } from '@/api/client'
import type { Cockpit, Control } from '@/api/schema'
import { useAnswer } from '@/api/useAnswer'
import HoldButton from '@/parts/HoldButton.vue'
import { useHands } from './hands'

/** Levers and switches of the simulated engines, as the aircraft has them. Two tabs show the same; the last hand wins. */
const props = defineProps<{
  /** Where the levers stand, from the newest frame. */
  levers: Record<string, number | string>
  /** The lever that the current item is about. */
  wanted: string | null
  /** The engine that the screen is about: its levers are shown first. */
  engine: number
}>()
const hands = useHands()
const held = useTemplateRef<InstanceType<typeof HoldButton>[]>('held')
const NOTHING: Cockpit = { engines: [], controls: [], actions: [] }
const { answer: known } = useAnswer(() => answer(api.GET('/api/live/cockpit')))
const cockpit = computed(() => known.value ?? NOTHING)
const MAGS = ['OFF', 'L', 'R', 'BOTH']
const chosen = ref(props.engine)
watch(
  () => props.engine,
  (now) => (chosen.value = now),
)

const isTwin = computed(() => cockpit.value.engines.length > 1)
const prefix = computed(() => (chosen.value === 2 ? 'e2_' : ''))
const id = (control: Control) => (control.shared ? control.id : prefix.value + control.id)
const of = (kind: Control['kind']) => cockpit.value.controls.filter((c) => c.kind === kind)
const hasLock = computed(() => props.levers.primer_unlocked !== undefined)
const full = (name: string) => {
  const control = cockpit.value.controls.find((c) => c.id === name)
  return control ? id(control) : name
}

/** What the hand has just set; the frame catches up within a tick or two. */
const hand = ref<Record<string, number>>({})
let lastHand = 0
const push = useThrottleFn((name: string, value: number) => hands.move({ [name]: value }), 80, true)
function slide(name: string, value: number) {
  const kept = Math.min(Math.max(value, 0), 1)
  hand.value[name] = kept
  lastHand = performance.now()
  void push(name, kept)
}
watch(
  () => props.levers,
  () => performance.now() - lastHand > 700 && (hand.value = {}),
)
const position = (name: string) => hand.value[name] ?? Number(props.levers[name] ?? 0)
const isOn = (name: string) => Number(props.levers[name] ?? 0) > 0.5
const isWanted = (control: Control) => props.wanted?.replace('e2_', '') === control.id
const flip = (name: string) => hands.move({ [full(name)]: isOn(full(name)) ? 0 : 1 })
const sliders = useTemplateRef<HTMLInputElement[]>('sliders')
/** Give a lever the focus, so that arrows move it. */
const focus = (name: string) => sliders.value?.find((slider) => slider.dataset.lever === name)?.focus()
const mag = (to: string) => hands.move({ [full('mag')]: to })
const lock = () => hands.move({ primer_unlocked: false })
const starter = () => of('hold').findIndex((c) => c.id === 'starter' || c.id === 'mesh')

defineExpose({
  focus,
  flip,
  mag,
  lock,
  press: () => held.value?.[starter()]?.press(),
  release: () => held.value?.[starter()]?.release(),
})
</script>

<template>
  <section class="levers" aria-label="Levers of the simulated engine">
    <div v-if="isTwin" class="row" role="group" aria-label="Whose levers">
      <button
        v-for="e in cockpit.engines"
        :key="e.number"
        type="button"
        :aria-pressed="chosen === e.number"
        @click="chosen = e.number"
      >
        {{ e.name }}
      </button>
    </div>
    <label v-for="c in of('slider')" :key="c.id" :class="{ wanted: isWanted(c) }">
      <span>{{ c.name }}</span>
      <input
        ref="sliders"
        :data-lever="c.id"
        type="range"
        min="0"
        max="1"
        step="0.005"
        :value="position(id(c))"
        :aria-label="c.name"
        @input="slide(id(c), Number(($event.target as HTMLInputElement).value))"
      />
      <b>{{ Math.round(position(id(c)) * 100) }} %</b>
      <span v-if="c.positions.length" class="row">
        <button v-for="p in c.positions" :key="p.name" type="button" @click="slide(id(c), p.at)">{{ p.name }}</button>
      </span>
    </label>
    <div
      v-for="c in of('positions')"
      :key="c.id"
      class="row turned"
      role="group"
      :aria-label="c.name"
      :class="{ wanted: isWanted(c) }"
    >
      <span>{{ c.name }}</span>
      <button
        v-for="p in c.positions"
        :key="p.name"
        type="button"
        :aria-pressed="Math.abs(Number(levers[id(c)] ?? 0) - p.at) < 0.1"
        @click="hands.move({ [id(c)]: p.at })"
      >
        {{ p.name }}
      </button>
    </div>
    <div
      v-for="c in of('mag')"
      :key="c.id"
      class="row"
      role="group"
      aria-label="Magneto switch"
      :class="{ wanted: isWanted(c) }"
    >
      <button
        v-for="m in MAGS"
        :key="m"
        type="button"
        :aria-pressed="levers[id(c)] === m"
        :aria-label="`Magnetos ${m}`"
        @click="mag(m)"
      >
        {{ m }}
      </button>
    </div>
    <div class="row">
      <HoldButton
        v-for="c in of('hold')"
        :key="c.id"
        ref="held"
        :class="{ wanted: isWanted(c) }"
        @held="hands.move({ [id(c)]: true })"
        @released="hands.move({ [id(c)]: false })"
      >
        {{ c.name }}
      </HoldButton>
      <button
        v-for="a in cockpit.actions"
        :key="a.id"
        type="button"
        :class="{ wanted: a.id === 'prime_strokes' && wanted?.startsWith('primer') }"
        @click="hands.act(a.id === 'prime_strokes' ? a.id : prefix + a.id)"
      >
        {{ a.name }}
      </button>
      <button v-if="hasLock" type="button" :aria-pressed="isOn('primer_unlocked')" @click="lock">
        {{ isOn('primer_unlocked') ? 'Lock' : 'Locked' }}
      </button>
    </div>
    <div class="row wraps">
      <button
        v-for="c in of('switch')"
        :key="c.id"
        type="button"
        :aria-pressed="isOn(id(c))"
        :class="{ wanted: isWanted(c) }"
        @click="flip(c.id)"
      >
        {{ c.name }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.levers {
  display: grid;
  flex: none; /* the column scrolls; the levers keep their height */
  gap: 6px;
}
label {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr) 56px;
  align-items: center;
  gap: 0 8px;
  padding-left: 8px;
}
label b {
  text-align: right;
}
label .row {
  grid-column: 1 / -1;
}
input[type='range'] {
  width: 100%;
  height: 40px;
  margin: 0;
  accent-color: var(--key);
  touch-action: pan-y;
}
.row {
  display: flex;
  gap: 6px;
}
.wraps {
  flex-wrap: wrap;
}
.row > * {
  flex: 1 1 auto;
  padding: 0 6px;
  line-height: 1.1;
}
button.wanted {
  border-color: var(--ink);
  border-style: dashed;
}
label.wanted,
.row.wanted {
  border-left: 4px solid var(--ink);
  padding-left: 8px;
}
.turned {
  align-items: center;
}
.turned > span {
  min-width: 96px;
  padding-left: 8px;
}
</style>

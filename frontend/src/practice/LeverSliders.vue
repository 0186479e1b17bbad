<script setup lang="ts">
import { useEventListener, useThrottleFn } from '@vueuse/core'
import { ref, useTemplateRef, watch } from 'vue'
import type { Control } from '@/api/schema'
import { useHands } from './hands'
import type { Own } from './owning'
import { breaksLoose, stroke } from './stroke'

/** The levers that slide, a twin's own ones side by side; what the hand moves is shown before the engine has followed. */
const props = defineProps<{
  /** The levers. */
  controls: Control[]
  /** Whose each of them is. */
  ownOf: (control: Control) => Own[]
  /** Where they stand, from the newest frame. */
  levers: Record<string, number | string>
  /** The lever that the current item is about. */
  wanted: string | null
}>()
const hands = useHands()
const sliders = useTemplateRef<HTMLInputElement[]>('sliders')

/** What the hand has just set; the frame catches up within a tick or two. */
const hand = ref<Record<string, number>>({})
let lastHand = 0
const push = useThrottleFn((name: string, value: number) => hands.move({ [name]: value }), 80, true)
/** The lever that rests at its gate, where the last stroke ended. */
const atGate = ref<string>()
function set(name: string, value: number) {
  hand.value[name] = value
  lastHand = performance.now()
  atGate.value = undefined
  void push(name, value)
}
/** Which lever's stroke is under way and where it began: from a finger or a key that goes down until it is let go, wherever that is. */
let began: { name: string; at: number; isLoose: boolean } | undefined
const begin = (name: string, isLoose: boolean) =>
  began?.name === name || (began = { name, at: position(name), isLoose })
const end = () => (began = undefined)
useEventListener(window, ['pointerup', 'pointercancel'], end)
function pull(name: string, control: Control, input: HTMLInputElement) {
  const to = Number(input.value)
  if (began?.name === name && !began.isLoose) began.isLoose = breaksLoose(began.at, to)
  if (began?.name === name && !began.isLoose) return void (input.value = String(began.at))
  const held = { detents: control.positions.map((one) => one.at), gate: control.gate }
  const there = stroke(began?.name === name ? began.at : position(name), to, held)
  input.value = String(there) // the knob stays where the lever is held
  set(name, there)
  atGate.value = control.gate !== null && there === control.gate && to < there ? name : undefined
}
watch(
  () => props.levers,
  () => performance.now() - lastHand > 700 && (hand.value = {}),
)
const position = (name: string) => hand.value[name] ?? Number(props.levers[name] ?? 0)
const percent = (name: string) => Math.round(position(name) * 100)

defineExpose({ focus: (id: string) => sliders.value?.find((slider) => slider.dataset.lever === id)?.focus() })
</script>

<template>
  <div v-for="c in controls" :key="c.id" class="lever" :class="{ wanted: ownOf(c).some((o) => wanted === o.id) }">
    <span class="name"
      >{{ c.name
      }}<b v-if="ownOf(c).length > 1"
        >{{
          ownOf(c)
            .map((o) => percent(o.id))
            .join(' · ')
        }}
      </b></span
    >
    <div class="own">
      <label v-for="o in ownOf(c)" :key="o.id">
        <input
          ref="sliders"
          :data-lever="o.id"
          type="range"
          min="0"
          max="1"
          step="0.005"
          :value="position(o.id)"
          :aria-label="o.full"
          @pointerdown="begin(o.id, false)"
          @keydown="begin(o.id, true)"
          @keyup="end"
          @blur="began?.name === o.id && end()"
          @input="pull(o.id, c, $event.target as HTMLInputElement)"
        />
        <b v-if="!o.side">{{ percent(o.id) }} %</b>
        <span v-if="c.positions.length" class="row">
          <button
            v-for="p in c.positions"
            :key="p.name"
            type="button"
            :aria-label="o.side ? `${p.name}, ${o.side.toLowerCase()}` : p.name"
            @click="set(o.id, p.at)"
          >
            {{ p.name }}
          </button>
        </span>
      </label>
    </div>
    <span v-if="ownOf(c).some((o) => o.id === atGate)" class="gate" role="status">At the gate: let go, then on.</span>
  </div>
</template>

<style scoped>
.lever {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  align-items: center;
  gap: 0 8px;
  padding-left: 8px;
}
.own {
  display: flex;
  gap: 10px;
}
label {
  flex: 1;
  min-width: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 3.6em;
  align-items: center;
  gap: 0 6px;
}
label b {
  text-align: right;
}
label .row,
.gate {
  grid-column: 1 / -1;
}
.own label:not(:only-child) {
  grid-template-columns: minmax(0, 1fr);
}
.lever .name b {
  display: block;
}
input[type='range'] {
  width: 100%;
  height: 48px;
  margin: 0;
  accent-color: var(--key);
  touch-action: pan-y;
}
.row {
  display: flex;
  gap: 6px;
}
.row > * {
  flex: 1 1 auto;
  padding: 0 6px;
  line-height: 1.1;
}
.lever.wanted,
.row.wanted {
  border-left: 4px solid var(--ink);
  padding-left: 8px;
}
</style>

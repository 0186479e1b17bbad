<script setup lang="ts">
import { useThrottleFn } from '@vueuse/core'
import { ref, useTemplateRef, watch } from 'vue'
import HoldButton from '@/parts/HoldButton.vue'
import { useFlight } from '@/stores/flight'

/** Levers and switches of the simulated engine. Two tabs show the same; the last hand wins. */
const props = defineProps<{
  /** Where the levers stand, from the newest frame. */
  levers: Record<string, number | string>
  /** The lever that the current item is about. */
  wanted: string | null
}>()
const flight = useFlight()
const starter = useTemplateRef<InstanceType<typeof HoldButton>>('starter')
const MAGS = ['OFF', 'L', 'R', 'BOTH']
const SLIDERS = [
  { id: 'throttle', name: 'Throttle', keys: '↑ ↓' },
  { id: 'mixture', name: 'Mixture', keys: '← →' },
]
const SWITCHES = [
  { id: 'master', name: 'Master' },
  { id: 'alternator', name: 'Alternator' },
  { id: 'pump', name: 'Fuel pump' },
  { id: 'carb_heat', name: 'Carb heat' },
]

/** What the hand has just set; the frame catches up within a tick or two. */
const hand = ref<Record<string, number>>({})
let lastHand = 0
const push = useThrottleFn((id: string, value: number) => flight.lever({ [id]: value }), 80, true)
function slide(id: string, value: number) {
  const kept = Math.min(Math.max(value, 0), 1)
  hand.value[id] = kept
  lastHand = performance.now()
  void push(id, kept)
}
watch(
  () => props.levers,
  () => performance.now() - lastHand > 700 && (hand.value = {}),
)
const position = (id: string) => hand.value[id] ?? Number(props.levers[id] ?? 0)
const isOn = (id: string) => Number(props.levers[id] ?? 0) > 0.5
const flip = (id: string) => flight.lever({ [id]: id === 'carb_heat' ? (isOn(id) ? 0 : 1) : !isOn(id) })
const nudge = (id: string, by: number) => slide(id, position(id) + by)
const mag = (to: string) => flight.lever({ mag: to })
const lock = () => flight.lever({ primer_unlocked: false })

defineExpose({ nudge, flip, mag, lock, press: () => starter.value?.press(), release: () => starter.value?.release() })
</script>

<template>
  <section class="levers" aria-label="Levers of the simulated engine">
    <label v-for="s in SLIDERS" :key="s.id" :class="{ wanted: wanted === s.id }">
      <span
        >{{ s.name }} <b>{{ Math.round(position(s.id) * 100) }} %</b></span
      >
      <input
        type="range"
        min="0"
        max="1"
        step="0.005"
        :value="position(s.id)"
        :aria-label="s.name"
        @input="slide(s.id, Number(($event.target as HTMLInputElement).value))"
      />
    </label>
    <div class="row" role="group" aria-label="Magneto switch" :class="{ wanted: wanted === 'mag' }">
      <button
        v-for="m in MAGS"
        :key="m"
        type="button"
        :aria-pressed="levers.mag === m"
        :aria-label="`Magnetos ${m}`"
        @click="mag(m)"
      >
        {{ m }}
      </button>
    </div>
    <div class="row">
      <HoldButton
        ref="starter"
        :class="{ wanted: wanted === 'starter' }"
        @held="flight.lever({ starter: true })"
        @released="flight.lever({ starter: false })"
      >
        Starter (hold)
      </HoldButton>
      <button type="button" :class="{ wanted: wanted === 'primer' }" @click="flight.prime()">Prime</button>
      <button type="button" :aria-pressed="isOn('primer_unlocked')" @click="lock">
        {{ isOn('primer_unlocked') ? 'Lock' : 'Locked' }}
      </button>
    </div>
    <div class="row">
      <button
        v-for="s in SWITCHES"
        :key="s.id"
        type="button"
        :aria-pressed="isOn(s.id)"
        :class="{ wanted: wanted === s.id }"
        @click="flip(s.id)"
      >
        {{ s.name }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.levers {
  display: grid;
  gap: 6px;
}
label {
  display: grid;
  gap: 0;
  padding-left: 8px;
}
label span {
  display: flex;
  justify-content: space-between;
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
</style>

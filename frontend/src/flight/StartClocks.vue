<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { Frame } from '@/api/schema'
import { useHands } from '@/practice/hands'
import { useFlight } from './flight'
import { useDisplay } from '@/parts/display'

/** The clocks of a start beside the list: rest of the starter, prime so far, tries; without needles, one tap for each. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
  /** The fastest that a simulated engine's time can run, in times of real time. */
  fastest: number
}>()
const display = useDisplay()
const flight = useFlight()
const start = computed(() => props.frame.start)
const hands = useHands()
const restShare = computed(() => (start.value.starter.rest_left_s / Math.max(start.value.starter.rest_s, 1)) * 100)
/** A simulated engine rests in fast time; afterwards its time runs as before. */
const before = ref<number | null>(null)
const isSkipping = computed(() => before.value !== null)
function skip() {
  before.value = props.frame.speed
  void hands.speed(props.fastest)
}
function asBefore() {
  if (before.value !== null) void hands.speed(before.value)
  before.value = null
}
watch(
  () => start.value.starter.rest_left_s,
  (left) => left <= 0 && asBefore(),
)
onBeforeUnmount(asBefore)
const byHand = computed(() => props.frame.source === 'manual')
const tap = (what: string) => flight.event('start_tap', { what, engine: start.value.engine })
</script>

<template>
  <section class="clocks" aria-label="Start clocks">
    <p v-if="start.starter.rest_left_s > 0" class="look rest">
      <svg viewBox="0 0 40 40" width="40" height="40" aria-hidden="true">
        <circle cx="20" cy="20" r="16" class="whole" />
        <circle cx="20" cy="20" r="16" class="left" pathLength="100" :stroke-dasharray="`${restShare} 100`" />
      </svg>
      Starter rests: <b>{{ start.starter.rest_left_s }} s</b>
      <button v-if="frame.feed?.is_sped" type="button" :disabled="isSkipping" @click="skip">Skip the rest</button>
    </p>
    <p v-if="start.attempts">
      Tries so far: <b>{{ start.attempts }}</b>
    </p>
    <p v-if="start.primed && frame.advice && !frame.item?.counts">
      Prime so far: <b>{{ start.primed }}</b> {{ start.unit }}
    </p>
    <p v-if="start.blades && frame.advice">
      Turned through: <b>{{ start.blades }}</b> blades
    </p>
    <div v-if="byHand" class="row">
      <span v-if="start.engine_name">{{ start.engine_name }}:</span>
      <button v-for="one in start.taps" :key="one.what" type="button" @click="tap(one.what)">
        {{ display.sentence(one.say) }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.clocks {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.rest {
  display: flex;
  gap: 10px;
  align-items: center;
}
circle {
  fill: none;
  stroke-width: 6;
  stroke: var(--line);
}
.left {
  stroke: var(--look);
  transform: rotate(-90deg);
  transform-origin: center;
}
b {
  font-size: 32px;
}
</style>

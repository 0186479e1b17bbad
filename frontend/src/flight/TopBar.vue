<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Frame } from '@/api/schema'
import { useFlight } from './flight'
import { useHands } from '@/practice/hands'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'
import EndFlight from '@/parts/EndFlight.vue'

/** The one way out, where the flight is, and the few switches. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
  /** How many times real time may be chosen. */
  speeds: number[]
}>()
const emit = defineEmits<{
  /** Show the keys. */
  keys: []
  /** Show the emergency card. */
  emergency: []
}>()
const flight = useFlight()
const hands = useHands()
const showsSwitches = ref(false)
const isLeaving = ref(false)
const place = computed(() => {
  const phase = props.frame.phases.find((p) => p.id === props.frame.phase)
  return phase ? (phase.open ? `${phase.open} left` : 'complete') : ''
})
const faster = () => {
  const at = props.speeds.indexOf(props.frame.speed)
  void hands.speed(props.speeds[(at + 1) % props.speeds.length]!)
}
</script>

<template>
  <header class="bar">
    <button type="button" class="out" :aria-expanded="isLeaving" @click="isLeaving = !isLeaving">
      <span aria-hidden="true">‹&nbsp;</span>Leave
    </button>
    <p class="phase">
      <b>{{ frame.registration }}</b> {{ frame.phase_title }} <span class="soft">{{ place }}</span>
    </p>
    <div class="tools">
      <button v-if="!frame.paused && !frame.ended" type="button" @click="flight.event('interrupted', {})">
        Interrupted
      </button>
      <button
        v-if="frame.feed?.is_sped"
        type="button"
        :aria-label="`Simulated ${frame.speed}×, speed of the simulated engine`"
        @click="faster"
      >
        Simulated {{ frame.speed }}×
      </button>
      <button
        type="button"
        :aria-expanded="showsSwitches"
        aria-label="Display: units, look, hand and sound"
        @click="showsSwitches = !showsSwitches"
      >
        Display
      </button>
      <button type="button" aria-label="Keys" @click="emit('keys')">?</button>
      <button type="button" class="stop" @click="emit('emergency')">Emergency</button>
    </div>
    <p v-if="isLeaving" class="leaving" role="group" aria-label="Leave the flight">
      <RouterLink to="/" class="key out">Leave: it goes on</RouterLink>
      <EndFlight :flight="frame.flight" :registration="frame.registration" />
    </p>
    <DisplaySwitches v-if="showsSwitches" class="switches" />
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 6px 16px;
  flex-wrap: wrap;
}
.tools {
  margin-left: auto;
  display: flex;
  gap: 6px;
}
.leaving {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.leaving,
.switches {
  flex-basis: 100%;
}
@media (max-height: 560px) and (min-width: 701px) {
  .bar {
    gap: 4px 8px;
  }
  .bar > *,
  .tools button {
    padding: 0 9px;
  }
  .tools {
    gap: 4px;
  }
  .phase {
    flex: 1 1 0;
    min-width: 0;
    padding: 0;
  }
}
@media (max-width: 700px) {
  .bar {
    gap: 4px 8px;
  }
  .tools {
    flex-wrap: wrap;
    margin-left: 0;
  }
  .tools button {
    padding: 0 8px;
  }
  .tools .stop {
    order: -1;
  }
}
</style>

<script setup lang="ts">
import type { BurnOff } from '@/api/schema'
import { useFlight } from './flight'
import { useDisplay } from '@/parts/display'

/** The burn-off of a fouled plug: what to set, its clock, which attempt it is. */
defineProps<{
  /** The burn-off as the core sees it. */
  burn: BurnOff
}>()
const display = useDisplay()
const flight = useFlight()
</script>

<template>
  <section class="burn" aria-label="Burn-off">
    <p>
      <b>Burn-off {{ burn.attempt }} of {{ burn.tries }}:</b> {{ display.sentence(burn.say) }}
    </p>
    <p v-if="!burn.done && !burn.given_up" class="clock">
      <b>{{ burn.seconds }}</b> of {{ burn.needed_s }} s
      <progress :value="burn.seconds" :max="burn.needed_s" />
      <button
        v-if="burn.by_tap && !burn.running"
        type="button"
        @click="flight.event('burn_off_started', { engine: burn.engine })"
      >
        Start its clock
      </button>
    </p>
  </section>
</template>

<style scoped>
.burn {
  display: grid;
  gap: 4px;
}
.clock {
  display: flex;
  gap: 12px;
  align-items: center;
}
.clock b {
  font-size: var(--mid);
}
progress {
  accent-color: var(--key);
  flex: 1 1 120px;
  height: 14px;
}
</style>

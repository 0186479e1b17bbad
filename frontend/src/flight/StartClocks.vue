<script setup lang="ts">
import { computed } from 'vue'
import type { Frame } from '@/api/schema'
import { useFlight } from './flight'
import { useDisplay } from '@/parts/display'

/** The clocks of a start beside the list: rest of the starter, prime so far, tries; without needles, one tap for each. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
}>()
const display = useDisplay()
const flight = useFlight()
const start = computed(() => props.frame.start)
const byHand = computed(() => props.frame.source === 'manual')
const tap = (what: string) => flight.event('start_tap', { what, engine: start.value.engine })
</script>

<template>
  <section class="clocks" aria-label="Start clocks">
    <p v-if="start.starter.rest_left_s > 0" class="look">
      Starter rests: <b>{{ start.starter.rest_left_s }} s</b>
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
b {
  font-size: 32px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useOutbox } from '@/api/outbox'
import type { Frame } from '@/api/schema'
import { useHands } from '@/practice/hands'
import { useFlight } from './flight'
import { useDisplay } from '@/parts/display'

/** Whether what is shown is live, whether what was said is kept, and what was not taken. */
defineProps<{
  /** The newest frame. */
  frame: Frame
}>()
const display = useDisplay()
const flight = useFlight()
const outbox = useOutbox()
const hands = useHands()
const clock = (ms: number) => new Date(ms).toLocaleTimeString([], { hour12: false })
const since = computed(() => (flight.oldSince === null ? null : clock(flight.oldSince)))
</script>

<template>
  <div class="server">
    <p v-if="since" class="old stop" role="alert">
      <b>OLD since {{ since }}</b>
      <span>Jemmon’s server is not heard: no needle and no clock below is live. Taps are kept here.</span>
    </p>
    <p v-else-if="flight.away" class="look"><b>The server is away.</b> Taps are kept here.</p>
    <p v-if="frame.trouble" class="look" role="alert">
      <b>{{ frame.trouble.say }}</b>
      <span>Since {{ clock(Date.parse(frame.trouble.since_utc)) }}.</span>
    </p>
    <p v-if="outbox.waiting > 1 || (outbox.waiting && (flight.away || since))" class="look" role="status">
      {{ outbox.waiting }} {{ outbox.waiting === 1 ? 'tap waits' : 'taps wait' }} to be kept.
    </p>
    <p v-for="row in outbox.refused" :key="row.key" class="look" role="alert">
      <span><b>Not taken:</b> {{ display.sentence(row.value.why) }}</span>
      <button type="button" @click="outbox.dismiss(row.key)">Dismiss</button>
    </p>
    <p v-if="hands.problem" class="look" role="alert">{{ hands.problem }}</p>
  </div>
</template>

<style scoped>
.server {
  display: grid;
  gap: 4px;
}
.server:empty {
  display: none;
}
p {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
.old {
  border: 4px solid var(--stop);
  padding: 8px 12px;
}
.old b {
  font-size: 32px;
  line-height: 1.1;
}
</style>

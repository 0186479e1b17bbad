<script setup lang="ts">
import { ref } from 'vue'
import type { ShownPutBack } from '@/api/schema'
import { useFlight } from './flight'

/** A temporary setting stays here with its clock until it is put back; what levers cannot tell is set by a tap. */
defineProps<{
  /** What is away now. */
  putBacks: ShownPutBack[]
  /** All pairs of this aircraft. */
  pairs: { id: string; title: string }[]
  /** Whether the phase is being closed: then leaving it on purpose is offered. */
  closing: boolean
}>()
const flight = useFlight()
const chooses = ref(false)
const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
function set(id: string) {
  chooses.value = false
  void flight.event('put_back_tapped', { put_back: id, away: true })
}
</script>

<template>
  <div class="strip" role="group" aria-label="Temporary settings">
    <p v-for="item in putBacks" :key="item.id" :class="{ overdue: item.overdue }">
      <b>{{ item.title }}</b>
      <span class="time">{{ clock(item.seconds) }}</span>
      <button type="button" @click="flight.event('put_back_tapped', { put_back: item.id, away: false })">
        {{ item.overdue ? '! ' : '' }}{{ item.back }}
      </button>
      <button v-if="item.keeps_open && closing" type="button" @click="flight.event('carry_on', { put_back: item.id })">
        Leave it on purpose
      </button>
      <span v-if="item.carried" class="soft">left on purpose</span>
    </p>
    <p v-if="!putBacks.length" class="soft">No temporary setting</p>
    <button type="button" class="plain more" :aria-expanded="chooses" @click="chooses = !chooses">
      Note a temporary setting
    </button>
    <div v-if="chooses" class="choice" role="group" aria-label="Which temporary setting">
      <button v-for="pair in pairs" :key="pair.id" type="button" @click="set(pair.id)">{{ pair.title }}</button>
    </div>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 26px;
  min-height: 48px;
  align-items: center;
  border-top: 2px solid var(--line);
  padding: 4px 0;
}
p {
  display: flex;
  gap: 10px;
  align-items: center;
}
.more {
  text-decoration: underline;
  padding: 0 6px;
}
.choice {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  flex-basis: 100%;
}
.time {
  font-size: var(--mid);
  font-weight: 700;
}
.overdue {
  color: var(--stop);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { Frame } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** What people forget, said at once or offered quietly. Nothing here covers or stops the flight. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
}>()
defineEmits<{
  /** Show the briefing again. */
  briefing: []
}>()
const flight = useFlight()
const display = useDisplay()
const late = computed(() => {
  const rows = props.frame.notices.late
  if (!rows.length) return ''
  const first = rows[0]!
  const words = first.unread ? 'not read' : `open: ${first.open.slice(0, 3).join(', ')}`
  return `Late: ${first.title}, ${words}${rows.length > 1 ? `, and ${rows.length - 1} more` : ''}`
})
const minutes = computed(() => props.frame.working.minutes ?? null)
</script>

<template>
  <div class="notices">
    <p v-for="words in frame.notices.stops" :key="words" class="alarm stop" role="alert">
      <b>STOP stands.</b> <span>{{ display.sentence(words) }}</span>
    </p>
    <div v-if="frame.notices.unproven.length" class="alarm stop" role="alert">
      <b>NOT CHECKED:</b>
      <span>{{ frame.notices.unproven.map((words) => display.sentence(words)).join(', ') }}</span>
    </div>
    <p v-if="frame.notices.low_rotor" class="alarm stop" role="alert">
      <b>{{ frame.notices.low_rotor }}</b>
    </p>
    <p v-for="words in frame.power_warnings" :key="words" class="alarm stop" role="alert">
      <b>{{ display.sentence(words) }}</b>
    </p>
    <p v-if="frame.notices.begun" class="look">
      <b>{{ frame.notices.begun.title }} has begun.</b>
      <button type="button" @click="flight.enter(frame.notices.begun.id)">Show its list</button>
    </p>
    <p v-if="late" class="look">
      <b>{{ late }}</b>
      <button type="button" @click="flight.enter(frame.notices.late[0]!.phase)">Read it now</button>
    </p>
    <p v-if="frame.notices.briefing_due" class="look">
      <b>{{ frame.notices.briefing_due }}</b>
      <button type="button" @click="$emit('briefing')">Read the briefing</button>
    </p>
    <p v-if="minutes !== null && frame.item?.as_expected === false">
      About {{ Math.max(Math.round(minutes), 1) }} min until it is there.
    </p>
    <div v-if="frame.notices.meanwhile.length && !frame.start.large" class="meanwhile">
      <span>Meanwhile:</span>
      <button
        v-for="one in frame.notices.meanwhile"
        :key="one.id"
        type="button"
        @click="flight.event('item_done', { item: one.id })"
      >
        {{ one.challenge }}: {{ display.sentence(one.response) }} ✓
      </button>
    </div>
  </div>
</template>

<style scoped>
.notices {
  display: grid;
  gap: 4px;
}
.alarm {
  border-left: 8px solid var(--stop);
  padding: 4px 12px;
  font-size: 22px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
p,
.meanwhile {
  display: flex;
  gap: 6px 12px;
  align-items: center;
  flex-wrap: wrap;
}
</style>

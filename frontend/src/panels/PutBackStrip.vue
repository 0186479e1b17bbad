<script setup lang="ts">
import type { PutBack } from '@/api/types'

/** What was set for a moment stays here with its clock until it is put back. */
defineProps<{
  /** What is away now. */
  putBacks: PutBack[]
}>()
const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
</script>

<template>
  <div class="strip" aria-live="polite" aria-label="To put back">
    <p v-for="item in putBacks" :key="item.id" :class="{ overdue: item.overdue }">
      <b>{{ item.title }}</b>
      <span class="time">{{ clock(item.seconds) }}</span>
      <span class="back">{{ item.overdue ? '! ' : '' }}{{ item.back }}</span>
    </p>
    <p v-if="!putBacks.length" class="soft">Nothing to put back</p>
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
  align-items: baseline;
}
.time {
  font-size: var(--mid);
  font-weight: 700;
}
.overdue {
  color: var(--stop);
}
</style>

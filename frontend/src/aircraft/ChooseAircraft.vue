<script setup lang="ts">
import type { AircraftLine } from '@/api/schema'

/** The aircraft that there are, one of them chosen. */
defineProps<{
  /** All of them. */
  aircraft: AircraftLine[]
  /** The one on show. */
  one: AircraftLine
}>()
const chosen = defineModel<string>({ required: true })
</script>

<template>
  <div class="choose" role="group" aria-label="Aircraft">
    <button v-for="a in aircraft" :key="a.id" type="button" :aria-pressed="a.id === one.id" @click="chosen = a.id">
      <b>{{ a.registration }}</b> {{ a.name }}
    </button>
  </div>
</template>

<style scoped>
.choose {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 14px;
}
</style>

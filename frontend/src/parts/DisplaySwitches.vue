<script setup lang="ts">
import { useTones } from '@/flight/useTones'
import { useDisplay } from './display'

/** Units, day or night, hand and sound: the one place where they are switched. */
const display = useDisplay()
const tones = useTones()
function toggleSound() {
  display.sound = !display.sound
  if (display.sound) tones.unlock()
}
</script>

<template>
  <div class="switches">
    <button type="button" title="Switch units" @click="display.switchUnits()">
      {{ display.chosen }}
    </button>
    <button type="button" title="Day or night" @click="display.look = display.look === 'day' ? 'night' : 'day'">
      {{ display.look === 'day' ? 'Day' : 'Night' }}
    </button>
    <button
      type="button"
      title="Main button at this hand"
      @click="display.hand = display.hand === 'right' ? 'left' : 'right'"
    >
      {{ display.hand === 'right' ? 'Right hand' : 'Left hand' }}
    </button>
    <button type="button" :aria-pressed="display.sound" title="Tones" @click="toggleSound">Sound</button>
  </div>
</template>

<style scoped>
.switches {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
@media (max-width: 600px) {
  .switches {
    flex-wrap: nowrap; /* one row that moves: what is switched once does not push the page down */
    max-width: 100%;
    overflow-x: auto;
  }
  .switches > button {
    flex: none;
  }
}
</style>

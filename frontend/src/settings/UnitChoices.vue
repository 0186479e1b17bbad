<script setup lang="ts">
import { useDisplay } from '@/parts/display'

/** Each family of units as this cockpit has it: litres beside inches of mercury, where the gauges are so. */
const display = useDisplay()
</script>

<template>
  <div class="families">
    <div class="family">
      <span>All as the aircraft’s own gauges</span>
      <button
        type="button"
        :aria-pressed="display.units === 'aircraft'"
        @click="display.units = display.units === 'aircraft' ? 'us' : 'aircraft'"
      >
        {{ display.units === 'aircraft' ? 'Yes' : 'No' }}
      </button>
    </div>
    <div v-for="one in display.families" :key="one.name" role="group" :aria-label="one.title" class="family">
      <span>{{ one.title }}</span>
      <button
        v-for="system in one.choices"
        :key="system"
        type="button"
        :aria-pressed="display.choiceOf(one.name) === system"
        @click="display.choose(one.name, system)"
      >
        {{ display.labelIn(one.units[0]!, system) }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.families {
  display: grid;
  gap: 8px;
}
.family {
  display: grid;
  grid-template-columns: minmax(150px, 260px) auto auto auto;
  gap: 8px;
  align-items: center;
  justify-content: start;
}
button {
  min-width: 96px;
}
@media (max-width: 600px) {
  .family {
    grid-template-columns: repeat(3, 1fr);
    justify-content: stretch;
  }
  .family > span {
    grid-column: 1 / -1;
  }
}
</style>

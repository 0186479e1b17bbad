<script setup lang="ts">
import { storeToRefs } from 'pinia'
import { computed } from 'vue'
import { useGamepad } from './gamepad'
import { useCockpit } from './useCockpit'

/** A controller that is plugged in: each lever is learned by moving its axis once. */
const { cockpit } = storeToRefs(useCockpit())
const { isThere, learning, learned, learn, forget } = useGamepad()
const levers = computed(() => cockpit.value.controls.filter((one) => one.kind === 'slider'))
</script>

<template>
  <details v-if="isThere" class="gamepad">
    <summary>Controller: {{ learned.length }} of {{ levers.length }} levers</summary>
    <p v-if="learning" role="status">Move its lever from closed to open, once.</p>
    <p v-for="one in levers" :key="one.id" class="row">
      <button type="button" :aria-pressed="learning === one.id" @click="learn(one.id)">
        {{ one.name }}: {{ learned.includes(one.id) ? 'learned' : 'learn it' }}
      </button>
      <button v-if="learned.includes(one.id)" type="button" class="plain" @click="forget(one.id)">Forget</button>
    </p>
  </details>
</template>

<style scoped>
.gamepad {
  display: grid;
  gap: 6px;
}
summary {
  min-height: 48px;
  line-height: 48px;
  cursor: pointer;
}
.row {
  display: flex;
  gap: 8px;
}
</style>

<script setup lang="ts">
import { LEARNABLE, useKeyLearning } from '@/flight/learnedKeys'

/** Any key or pedal for the three things that a hand wants most: learned by pressing it once. */
const { learned, waiting, forget } = useKeyLearning()
</script>

<template>
  <p v-for="([say], deed) in LEARNABLE" :key="deed" class="row">
    <button type="button" :aria-pressed="waiting === deed" @click="waiting = deed">
      {{ say }}: {{ waiting === deed ? 'press it now' : (learned[deed] ?? 'learn a key or pedal') }}
    </button>
    <button v-if="learned[deed]" type="button" class="plain" @click="forget(deed)">Forget {{ say }}</button>
  </p>
</template>

<style scoped>
.row {
  display: flex;
  gap: 8px;
  margin-bottom: 8px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { Starter } from '@/api/schema'

/** How long the starter turns: a bar to its limit, with the stretch marked where the engine usually fires. */
const props = defineProps<{
  /** The starter. */
  starter: Starter
}>()
const full = computed(() => props.starter.limit_s ?? props.starter.usual_to_s * 2)
const share = (s: number) => Math.min(s / full.value, 1) * 100
</script>

<template>
  <div class="cranking" aria-hidden="true">
    <div class="bar">
      <span class="turned" :style="{ width: `${share(starter.turned_s ?? 0)}%` }" />
      <span
        class="usual"
        :style="{ left: `${share(starter.usual_from_s)}%`, right: `${100 - share(starter.usual_to_s)}%` }"
      />
    </div>
    <p>
      <span :style="{ marginLeft: `${share(starter.usual_from_s)}%` }">usually fires here</span>
      <span v-if="starter.limit_s !== null">limit {{ starter.limit_s }} s</span>
    </p>
  </div>
</template>

<style scoped>
.bar {
  position: relative;
  height: 36px;
  border: 3px solid var(--ink);
}
.turned {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--ink);
}
.usual {
  position: absolute;
  top: -10px;
  bottom: -10px;
  border: 3px solid var(--soft);
  border-width: 0 3px;
}
p {
  display: flex;
  justify-content: space-between;
  margin-top: 12px;
  font-size: 22px;
}
</style>

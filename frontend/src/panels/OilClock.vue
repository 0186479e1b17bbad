<script setup lang="ts">
import { watch } from 'vue'
import type { OilClock } from '@/api/types'
import { useTones } from '@/composables/useTones'

/** From first fire to oil pressure: counts down large by itself, and becomes a verdict. */
const props = defineProps<{
  /** The clock; it began when the engine fired. */
  clock: OilClock
}>()
const tones = useTones()
const WARN_S = 20
watch(
  () => [props.clock.verdict, props.clock.elapsed_s > WARN_S] as const,
  ([verdict, late]) => {
    if (verdict === 'missing') tones.alarm()
    else if (verdict === 'running' && late) tones.done()
  },
)
</script>

<template>
  <section class="clock" aria-live="assertive" aria-label="Oil pressure clock">
    <p v-if="clock.verdict === 'missing'" class="stop alarm">
      STOP THE ENGINE: no oil pressure in {{ clock.limit_s }} s
    </p>
    <p v-else-if="clock.verdict === 'seen'" class="within">
      Oil pressure after <b>{{ clock.seconds?.toFixed(0) }} s</b> (limit {{ clock.limit_s }} s): within
    </p>
    <p v-else>
      <b class="count">{{ clock.left_s }}</b> s left for oil pressure
    </p>
  </section>
</template>

<style scoped>
.count {
  font-size: var(--big);
  line-height: 1;
}
.alarm,
.within {
  font-size: var(--mid);
  font-weight: 700;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { Item, StartAdvice } from '@/api/types'

/** Advice for this start, in place: which start it is, how much prime and why, what if it does not fire. */
const props = defineProps<{
  /** The current item. */
  item: Item
  /** The advice, made from temperature and this aircraft's own starts. */
  advice: StartAdvice
}>()
const range = computed(() =>
  props.advice.least === props.advice.most ? '' : ` (${props.advice.least} to ${props.advice.most} will do)`,
)
</script>

<template>
  <section class="advice" aria-label="Start advice">
    <p v-if="item.watch === 'day'">
      It looks like a <b>{{ advice.kind }}</b> start. {{ advice.because }}
    </p>
    <template v-else-if="item.counts !== null">
      <p class="amount">
        Advised <b>{{ advice.strokes }}</b> strokes{{ range }}
      </p>
      <p class="soft">{{ advice.history }} Each opening of the throttle is prime too.</p>
    </template>
    <p v-else-if="item.watch === 'start'">{{ advice.if_not }}</p>
  </section>
</template>

<style scoped>
.advice {
  display: grid;
  gap: 2px;
}
.amount {
  font-size: var(--mid);
}
</style>

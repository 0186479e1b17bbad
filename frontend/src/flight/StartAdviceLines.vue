<script setup lang="ts">
import { computed } from 'vue'
import type { ShownItem, StartAdvice } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** Advice for this start, in place: which start it is, how much prime and why, how the levers stand, what if it fails. */
const props = defineProps<{
  /** The current item. */
  item: ShownItem
  /** The advice, made from temperature and this aircraft's own starts. */
  advice: StartAdvice
}>()
const display = useDisplay()
const range = computed(() =>
  props.advice.least === props.advice.most ? '' : ` (${props.advice.least} to ${props.advice.most} will do)`,
)
const primes = computed(() => props.item.counts !== null || props.item.watch === 'prime')
</script>

<template>
  <section class="advice" aria-label="Start advice">
    <p v-if="item.watch === 'day'">
      It looks like a <b>{{ advice.kind }}</b> start. {{ display.sentence(advice.because) }}
    </p>
    <template v-else-if="primes">
      <p class="amount">
        Advised <b>{{ advice.strokes }}</b> {{ advice.unit }}{{ range }}
      </p>
      <p v-if="advice.beyond_book" class="look" role="status">{{ advice.beyond_book }}</p>
      <p class="soft">{{ advice.primer }}. {{ advice.history }}</p>
    </template>
    <template v-else-if="item.watch === 'start'">
      <p class="amount">
        <b>{{ advice.attempt > 1 ? `Try ${advice.attempt}, ${advice.kind}` : `A ${advice.kind} start` }}</b>{{
          advice.attempt > 1 && advice.kind !== 'hot' ? `: ${advice.strokes} ${advice.unit} in all` : ''
        }}
      </p>
      <dl>
        <dt>Throttle</dt>
        <dd>{{ advice.throttle }}</dd>
        <dt>Mixture</dt>
        <dd>{{ advice.mixture }}</dd>
        <dt>Pump</dt>
        <dd>{{ advice.pump }}</dd>
        <dt>Cranking</dt>
        <dd>{{ advice.cranking }}</dd>
      </dl>
      <p v-if="advice.attempt > 1 && advice.beyond_book" class="look" role="status">{{ advice.beyond_book }}</p>
      <p :class="{ look: advice.attempt > 1 }">{{ advice.if_not }}</p>
    </template>
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
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0 14px;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
}
</style>

<script setup lang="ts">
import { ref, watch } from 'vue'
import type { PowerLossNow } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** Power is gone in flight: the first actions by heart, very large, above everything else; the whole card is the red button's. */
const props = defineProps<{
  /** What was seen, and the steps of the type. */
  loss: PowerLossNow
}>()
const display = useDisplay()
/** Put aside by the pilot; another loss shows again. */
const aside = ref(false)
watch(
  () => props.loss.at_s,
  () => (aside.value = false),
)
</script>

<template>
  <section v-if="!aside" class="loss stop" role="alert" aria-label="Power loss">
    <h2>{{ loss.is_question ? 'Power is down: was it you?' : `${loss.engine} POWER LOST`.trim() }}</h2>
    <p class="row">
      <span v-if="loss.since_s !== null" class="clock" aria-live="off">
        {{ loss.since_s }} s<template v-if="loss.has_time"> · there is time: right before fast</template>
      </span>
      <button type="button" class="plain" @click="aside = true">
        {{ loss.is_question ? 'Yes, it was me' : 'Put this aside' }}
      </button>
    </p>
    <ol v-if="!loss.is_question && loss.steps.length">
      <li v-for="step in loss.steps" :key="step">{{ display.sentence(step) }}</li>
    </ol>
    <p class="seen">{{ display.sentence(loss.say) }}</p>
  </section>
</template>

<style scoped>
.loss {
  flex: none;
  padding: 10px 14px;
}
h2 {
  margin: 0 0 6px;
  font-size: 32px;
  line-height: 1.1;
}
ol {
  margin: 0 0 8px;
  padding-left: 1.3em;
  font-size: 32px;
  line-height: 1.25;
  font-weight: 700;
}
@media (max-width: 1100px) {
  ol {
    font-size: 27px;
  }
}
@media (max-width: 700px) {
  ol {
    font-size: 22px;
  }
}
.clock {
  font-size: 22px;
  font-variant-numeric: tabular-nums;
}
.seen {
  margin: 0 0 8px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 16px;
  margin: 0 0 6px;
}
</style>

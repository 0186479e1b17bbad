<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Frame } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { useVoice } from './voice'

/** What a screen reader says by itself, and the browser's voice where it is wanted: a new item and a verdict once, a stop and a needle
 * out of its limits at once; never a clock or a figure that lives. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
}>()
const display = useDisplay()
const { say } = useVoice()
const calm = ref('')
const urgent = ref('')
watch(
  () => props.frame.item?.id,
  () => {
    const item = props.frame.item
    calm.value = item
      ? `${item.engine_name ? `${item.engine_name}: ` : ''}${item.challenge}: ${display.sentence(item.response, item.unit)}`
      : `${props.frame.phase_title}: nothing waits`
  },
  { immediate: true },
)
watch(
  () => props.frame.item?.finding?.event,
  (now, before) => {
    const finding = props.frame.item?.finding
    if (!finding || !now || now === before) return
    const words = `${finding.title}: ${finding.verdict}. ${display.sentence(finding.because)}`
    if (finding.verdict === 'stop') urgent.value = words
    else calm.value = words
  },
)
watch(
  () => props.frame.start.large?.say,
  (say) => {
    if (!say) return
    if (props.frame.start.large?.mode === 'stop' || props.frame.start.large?.mode === 'let_go') urgent.value = say
    else calm.value = say
  },
)
watch(
  () => props.frame.power_loss?.at_s,
  () => {
    const loss = props.frame.power_loss
    if (loss) urgent.value = `${loss.engine} power lost. ${display.sentence(loss.say)}`.trim()
  },
)
const outside = () =>
  props.frame.instruments
    .filter((one) => one.state === 'low' || one.state === 'high')
    .map((one) => `${one.label} ${one.state}`)
watch(
  () => outside().join(', '),
  (now, before) => {
    const fresh = now.split(', ').filter((one) => one && !before.split(', ').includes(one))
    if (fresh.length) urgent.value = fresh.join(', ')
  },
)
watch(calm, (words) => say(words, false), { immediate: true })
watch(urgent, (words) => say(words, true))
</script>

<template>
  <div class="spoken">
    <p aria-live="polite">{{ calm }}</p>
    <p aria-live="assertive">{{ urgent }}</p>
  </div>
</template>

<style scoped>
.spoken {
  position: absolute;
  clip-path: inset(50%);
  height: 1px;
  overflow: hidden;
}
</style>

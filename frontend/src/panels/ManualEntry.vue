<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import NumberPad from '@/parts/NumberPad.vue'
import { useDisplay } from '@/stores/display'
import { useFlight } from '@/stores/flight'

/** The same check by hand, for an aircraft with no data: one figure after the other on the pad. */
const props = defineProps<{
  /** Which check. */
  check: string
  /** Of which engine, where an item is one engine's own. */
  engine: number
}>()
const emit = defineEmits<{
  /** The figures were sent, or the pad was put away. */
  closed: []
}>()
const flight = useFlight()
const display = useDisplay()
const FIELDS: Record<string, [string, string, string][]> = {
  mag_check: [
    ['base_rpm', 'On both', 'rpm'],
    ['left_rpm', 'Lowest on left', 'rpm'],
    ['right_rpm', 'Lowest on right', 'rpm'],
    ['restored_rpm', 'Back on both', 'rpm'],
  ],
  carb_heat_check: [
    ['base_rpm', 'Before', 'rpm'],
    ['low_rpm', 'Lowest when hot', 'rpm'],
    ['restored_rpm', 'Cold again', 'rpm'],
  ],
  idle_check: [['idle_rpm', 'Throttle closed', 'rpm']],
  lean: [
    ['peak_egt_f', 'Peak EGT', 'f'],
    ['target_egt_f', 'EGT now', 'f'],
  ],
}
const fields = computed(() => FIELDS[props.check] ?? [])
const figures = ref<Record<string, string>>({})
const at = ref(0)
const text = ref('')
const rough = ref<string[]>([])
watch(text, (value) => fields.value[at.value] && (figures.value[fields.value[at.value]![0]] = value))

function choose(index: number) {
  at.value = index
  text.value = figures.value[fields.value[index]![0]] ?? ''
}
function next() {
  if (at.value < fields.value.length - 1) return choose(at.value + 1)
  const body: Record<string, unknown> = { check: props.check }
  for (const [name, , unit] of fields.value) {
    const typed = figures.value[name]
    if (typed) body[name] = display.toCore(Number(typed), unit)
  }
  if (props.engine) body.engine = props.engine
  if (rough.value.length) body.rough = rough.value
  void flight.event('typed_reading', body)
  emit('closed')
}
const toggle = (side: string) =>
  (rough.value = rough.value.includes(side) ? rough.value.filter((s) => s !== side) : [...rough.value, side])
const type = (digit: string) => text.value.length < 5 && (text.value += digit)
defineExpose({ type })
</script>

<template>
  <section class="entry" aria-label="Type the figures">
    <div class="fields">
      <button
        v-for="([name, title, unit], index) in fields"
        :key="name"
        type="button"
        :aria-pressed="index === at"
        @click="choose(index)"
      >
        {{ title }}: <b>{{ figures[name] || '–' }}</b> {{ display.label(unit) }}
      </button>
      <template v-if="check === 'mag_check'">
        <button
          v-for="side in ['left', 'right']"
          :key="side"
          type="button"
          :aria-pressed="rough.includes(side)"
          @click="toggle(side)"
        >
          Rough on {{ side }}
        </button>
      </template>
      <button type="button" class="plain" @click="emit('closed')">Put the pad away</button>
    </div>
    <NumberPad v-model="text" @done="next" />
  </section>
</template>

<style scoped>
.entry {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
  align-items: start;
}
.fields {
  display: grid;
  gap: 6px;
  min-width: 220px;
}
.fields button {
  text-align: left;
}
</style>

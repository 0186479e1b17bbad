<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { BodyOf } from '@/api/letters'
import type { PadField } from '@/api/schema'
import NumberPad from '@/parts/NumberPad.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** A check by hand: one figure after the other on the pad, as the check itself asks for them. */
const props = defineProps<{
  /** Which check. */
  check: string
  /** The figures that it needs, in order. */
  fields: PadField[]
  /** Of which engine, where an item is one engine's own. */
  engine: number
}>()
const emit = defineEmits<{
  /** The figures were sent, or the pad was closed. */
  closed: []
}>()
const flight = useFlight()
const display = useDisplay()
const asked = computed(() => props.fields.filter((field) => field.kind === 'figure'))
const choices = computed(() => props.fields.filter((field) => field.kind === 'sides'))
const figures = ref<Record<string, string>>({})
const sides = ref<Record<string, string[]>>({})
const at = ref(0)
const text = ref('')
watch(text, (value) => asked.value[at.value] && (figures.value[asked.value[at.value]!.name] = value))

function choose(index: number) {
  at.value = index
  text.value = figures.value[asked.value[index]!.name] ?? ''
}
/** How far a typed figure is from the one that it is held against, as soon as both are there. */
function apart(field: PadField): string {
  const [own, from] = [figures.value[field.name], figures.value[field.drop_from ?? '']]
  return own && from ? ` (${Math.round((Number(from) - Number(own)) * 10) / 10})` : ''
}
function next() {
  if (at.value < asked.value.length - 1) return choose(at.value + 1)
  const body: Record<string, unknown> = { check: props.check }
  for (const { name, unit } of asked.value) {
    const typed = figures.value[name]
    if (typed) body[name] = display.toCore(Number(typed), unit)
  }
  for (const { name } of choices.value) if (sides.value[name]?.length) body[name] = sides.value[name]
  if (props.engine) body.engine = props.engine
  void flight.event('typed_reading', body as BodyOf<'typed_reading'>)
  emit('closed')
}
function toggle(name: string, side: string) {
  const chosen = sides.value[name] ?? []
  sides.value[name] = chosen.includes(side) ? chosen.filter((s) => s !== side) : [...chosen, side]
}
const type = (digit: string) => text.value.length < 5 && (text.value += digit)
const back = () => (text.value = text.value.slice(0, -1))
defineExpose({ type, back, take: next })
</script>

<template>
  <section class="entry" aria-label="Type the figures">
    <div class="fields">
      <button
        v-for="(field, index) in asked"
        :key="field.name"
        type="button"
        :aria-pressed="index === at"
        @click="choose(index)"
      >
        {{ field.title }}: <b>{{ figures[field.name] || '–' }}{{ apart(field) }}</b> {{ display.label(field.unit) }}
      </button>
      <template v-for="field in choices" :key="field.name">
        <button
          v-for="side in ['left', 'right']"
          :key="side"
          type="button"
          :aria-pressed="sides[field.name]?.includes(side) ?? false"
          @click="toggle(field.name, side)"
        >
          {{ field.title }} {{ side }}
        </button>
      </template>
      <button type="button" class="plain" @click="emit('closed')">Close the pad</button>
    </div>
    <NumberPad v-model="text" :decimals="asked[at]?.unit === 'inhg'" @done="next" />
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

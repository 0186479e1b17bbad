<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { answer, api, Problem } from '@/api/client'
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
const problem = ref<{ where: string; say: string }>()
/** Whether figures are typed that were not taken yet. */
const isHalf = () => Object.values(figures.value).some((figure) => figure !== '')
watch(text, (value) => asked.value[at.value] && (figures.value[asked.value[at.value]!.name] = value))

function choose(index: number) {
  at.value = index
  text.value = figures.value[asked.value[index]!.name] ?? ''
}
/** Likely figures of the field that is asked now, in the unit that is shown: one tap takes one and goes on. */
const near = computed(() => {
  const field = asked.value[at.value]
  if (!field || flight.frame?.ear) return [] // the ear's own figure stands there
  const from = field.near_from ? figures.value[field.near_from] : '0'
  if (!from) return []
  const base = field.near_from ? display.toCore(Number(from), field.unit) : 0
  return field.near.map((figure) => display.typed(base + figure, field.unit))
})
/** What the ear hears now, for a figure of speed. */
const heard = computed(() => {
  const rpm = flight.frame?.ear?.rpm
  return rpm != null && asked.value[at.value]?.unit === 'rpm' ? display.typed(rpm, 'rpm') : ''
})
async function takeNear(figure: string) {
  text.value = figure
  await nextTick()
  await next()
}
/** A slip: the figure before is asked again. */
function again() {
  const place = text.value ? at.value : Math.max(at.value - 1, 0)
  figures.value[asked.value[place]!.name] = ''
  choose(place)
}
/** How far a typed figure is from the one that it is held against, as soon as both are there. */
function apart(field: PadField): string {
  const [own, from] = [figures.value[field.name], figures.value[field.drop_from ?? '']]
  return own && from ? ` (${Math.round((Number(from) - Number(own)) * 10) / 10})` : ''
}
/** What cannot be taken is said at its field, and the pad goes there; a server that is away looks at it later. */
async function isTaken(body: Record<string, unknown>): Promise<boolean> {
  problem.value = undefined
  try {
    await answer(api.POST('/api/live/typed', { body: { figures: body as BodyOf<'typed_reading'> } }))
  } catch (error) {
    if (!(error instanceof Problem) || !error.isRefusal) return true
    problem.value = { where: error.where ?? '', say: error.message }
    const index = asked.value.findIndex((field) => field.name === error.where)
    if (index >= 0) choose(index)
    return false
  }
  return true
}
async function next() {
  if (at.value < asked.value.length - 1) return choose(at.value + 1)
  const body: Record<string, unknown> = { check: props.check }
  for (const { name, unit } of asked.value) {
    const typed = figures.value[name]
    if (typed) body[name] = display.toCore(Number(typed), unit)
  }
  for (const { name } of choices.value) if (sides.value[name]?.length) body[name] = sides.value[name]
  if (props.engine) body.engine = props.engine
  if (!(await isTaken(body))) return
  void flight.event('typed_reading', body as BodyOf<'typed_reading'>)
  emit('closed')
}
function toggle(name: string, side: string) {
  const chosen = sides.value[name] ?? []
  sides.value[name] = chosen.includes(side) ? chosen.filter((s) => s !== side) : [...chosen, side]
}
const type = (digit: string) => text.value.length < 5 && (text.value += digit)
const back = () => (text.value = text.value.slice(0, -1))
defineExpose({ type, back, take: next, isHalf })
</script>

<template>
  <section class="entry" aria-label="Type the figures">
    <div class="fields">
      <button
        v-for="(field, index) in asked"
        :key="field.name"
        type="button"
        :aria-pressed="index === at"
        :aria-invalid="problem?.where === field.name"
        @click="choose(index)"
      >
        {{ field.title }}: <b>{{ figures[field.name] || '–' }}{{ apart(field) }}</b> {{ display.label(field.unit) }}
      </button>
      <button v-if="heard" type="button" class="heard" @click="takeNear(heard)">Take what is heard: {{ heard }}</button>
      <div v-if="near.length" class="near" role="group" :aria-label="`${asked[at]!.title}: likely figures`">
        <button v-for="figure in near" :key="figure" type="button" @click="takeNear(figure)">{{ figure }}</button>
      </div>
      <button v-if="isHalf()" type="button" class="plain" @click="again">↶ Last figure again</button>
      <p v-if="problem" class="look" role="alert">
        <b>{{ problem.say }}</b>
      </p>
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
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 6px;
  flex: 1 1 300px;
}
.fields button {
  text-align: left;
  line-height: 1.15;
  padding: 4px 10px;
}
.fields p,
.heard,
.near {
  grid-column: 1 / -1;
}
.near {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.fields .heard {
  min-height: 64px;
  font-size: 22px;
}
.near button {
  min-height: 56px;
  font-size: 22px;
  text-align: center;
}
</style>

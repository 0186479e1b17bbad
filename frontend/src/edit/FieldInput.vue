<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue'
import type { FormField, Option } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import type { Json, JsonObject } from './json'

/** One field of a form: typed or chosen as its kind says, with what is wrong beside it. A figure is typed in the unit on display. */
const props = defineProps<{
  /** What the field is. */
  field: FormField
  /** What may be chosen, by the menu's name. */
  menus: Record<string, Option[]>
  /** What is wrong with it: the rule, and the way out. */
  wrong?: string
  /** Whether its title is read, and not seen: a column's heading says it. */
  bare?: boolean
  /** Whether nothing may be changed. */
  locked?: boolean
}>()
const value = defineModel<Json | undefined>()
const display = useDisplay()
const id = useId()
const CONDITION = ['is', 'above', 'below'] as const
const options = computed(() => (props.field.menu ? (props.menus[props.field.menu] ?? []) : props.field.options))
const unit = computed(() => display.label(props.field.unit))
const title = computed(() => `${props.field.title}${unit.value ? ` [${unit.value}]` : ''}`)
const shownFigure = () => {
  if (typeof value.value === 'number')
    return props.field.unit ? display.typed(value.value, props.field.unit) : String(value.value)
  if (Array.isArray(value.value)) return value.value.join(' to ')
  return ''
}
const typed = ref(shownFigure())
watch(
  () => [value.value, display.chosen],
  () => {
    if (figure(typed.value) !== value.value) typed.value = shownFigure()
  },
)
function figure(text: string): number | undefined {
  const given = Number(text.replace(',', '.'))
  if (!text.trim() || !Number.isFinite(given)) return undefined
  return props.field.unit ? Math.round(display.toCore(given, props.field.unit) * 1e4) / 1e4 : given
}
function takeFigure(text: string) {
  typed.value = text
  if (props.field.kind === 'figures') {
    const pair = text.match(/-?[0-9.]+/g)?.map(Number)
    value.value = pair?.length ? pair : undefined
  } else value.value = figure(text)
}
const text = (given: string) => (given === '' && props.field.may_be_empty ? undefined : given)
const conditions = computed(() => (Array.isArray(value.value) ? (value.value as JsonObject[]) : []))
const setConditions = (rows: JsonObject[]) => (value.value = rows.length ? rows : undefined)
const put = (at: number, row: JsonObject) => setConditions(conditions.value.with(at, row))
const HOW: [string, string][] = [
  ['true', 'yes'],
  ['false', 'no'],
  ['above', 'above'],
  ['below', 'below'],
  ['word', 'is'],
]
function how(row: JsonObject) {
  if (row.is === true || row.is === false) return String(row.is)
  return 'above' in row ? 'above' : 'below' in row ? 'below' : 'word'
}
function setHow(at: number, chosen: string) {
  const of = conditions.value[at]!.of!
  const known: Record<string, JsonObject> = { true: { of, is: true }, false: { of, is: false }, word: { of, is: '' } }
  put(at, known[chosen] ?? { of, [chosen]: 0 })
}
function setHeld(at: number, given: string) {
  const row = conditions.value[at]!
  const name = CONDITION.find((one) => one in row) ?? 'is'
  const asNumber = Number(given.replace(',', '.'))
  put(at, { of: row.of!, [name]: name !== 'is' && Number.isFinite(asNumber) ? asNumber : given })
}
</script>

<template>
  <div class="field" :class="[field.kind, { bad: wrong }]">
    <label v-if="field.kind !== 'flag' && field.kind !== 'conditions'" :for="id" :class="{ sr: bare }">{{
      title
    }}</label>
    <el-input
      v-if="field.kind === 'text'"
      :id="id"
      :model-value="(value as string) ?? ''"
      size="large"
      :disabled="locked"
      :aria-invalid="!!wrong"
      :autosize="{ minRows: 1, maxRows: 4 }"
      :type="field.name === 'why' || field.name === 'about' ? 'textarea' : 'text'"
      @update:model-value="(given: string) => (value = text(given))"
    />
    <el-input
      v-else-if="field.kind === 'lines'"
      :id="id"
      type="textarea"
      :autosize="{ minRows: 2, maxRows: 10 }"
      :disabled="locked"
      :model-value="((value as string[]) ?? []).join('\n')"
      @update:model-value="(given: string) => (value = given.split('\n'))"
    />
    <el-input
      v-else-if="field.kind === 'figure' || field.kind === 'figures'"
      :id="id"
      :model-value="typed"
      size="large"
      inputmode="decimal"
      :disabled="locked"
      :aria-invalid="!!wrong"
      autocomplete="off"
      @update:model-value="takeFigure"
    />
    <el-select
      v-else-if="field.kind === 'choice' || field.kind === 'names'"
      :id="id"
      :model-value="(value as string) ?? (field.kind === 'names' ? [] : undefined)"
      :aria-label="title"
      size="large"
      :multiple="field.kind === 'names'"
      :clearable="field.may_be_empty"
      :disabled="locked"
      filterable
      placeholder=""
      @update:model-value="
        (given: Json) => (value = given === '' || (Array.isArray(given) && !given.length) ? undefined : given)
      "
    >
      <el-option v-for="one in options" :key="one.id" :value="one.id" :label="one.title" />
    </el-select>
    <el-checkbox
      v-else-if="field.kind === 'flag'"
      :model-value="value === true"
      :disabled="locked"
      size="large"
      @update:model-value="(given: unknown) => (value = given ? true : field.may_be_empty ? undefined : false)"
      >{{ title }}</el-checkbox
    >
    <fieldset v-else>
      <legend>{{ title }}</legend>
      <div v-for="(row, at) in conditions" :key="at" class="condition">
        <el-select
          :model-value="row.of as string"
          aria-label="What"
          filterable
          size="large"
          :disabled="locked"
          @update:model-value="(of: string) => put(at, { ...row, of })"
        >
          <el-option v-for="one in options" :key="one.id" :value="one.id" :label="one.title" />
        </el-select>
        <el-select
          :model-value="how(row)"
          aria-label="How"
          size="large"
          :disabled="locked"
          @update:model-value="(chosen: string) => setHow(at, chosen)"
        >
          <el-option v-for="[one, say] in HOW" :key="one" :value="one" :label="say" />
        </el-select>
        <el-input
          v-if="typeof row.is !== 'boolean'"
          :model-value="String(row.above ?? row.below ?? row.is ?? '')"
          aria-label="Figure or word"
          size="large"
          :disabled="locked"
          @update:model-value="(given: string) => setHeld(at, given)"
        />
        <button type="button" :disabled="locked" @click="setConditions(conditions.toSpliced(at, 1))">Remove</button>
      </div>
      <button
        type="button"
        :disabled="locked"
        @click="setConditions([...conditions, { of: options[0]!.id, is: true }])"
      >
        Add a condition
      </button>
    </fieldset>
    <small v-if="wrong" class="stop" role="status">{{ display.sentence(wrong) }}</small>
  </div>
</template>

<style scoped>
.field {
  display: grid;
  gap: 2px;
  align-content: start;
  min-width: 0;
}
.condition {
  display: grid;
  grid-template-columns: 2fr 1fr 1fr auto;
  gap: 6px;
  margin-bottom: 6px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
}
.bad :deep(.el-input__wrapper),
.bad :deep(.el-textarea__inner),
.bad :deep(.el-select__wrapper) {
  box-shadow: 0 0 0 2px var(--stop) inset;
}
.field :deep(.el-checkbox__label) {
  font-size: var(--small);
  white-space: normal;
}
.sr {
  position: absolute;
  clip-path: inset(50%);
}
</style>

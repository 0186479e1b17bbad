<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import ListAbout from './ListAbout.vue'
import FindReplace from './FindReplace.vue'
import ItemForm from './ItemForm.vue'
import ItemPreview from './ItemPreview.vue'
import PasteLists from './PasteLists.vue'
import { type JsonObject, free, moved } from './json'
import type { Draft } from './useDraft'
import { wrongWithin } from './wrong'

/** The lists: one is chosen, its items are moved by hand or by keys, one item is written and seen as it will look. */
const props = defineProps<{
  /** What is being written. */
  draft: Draft
}>()
const chosen = ref({ phase: 0, list: 0 })
const at = ref(0)
const dragged = ref<number>()
const box = useTemplateRef<HTMLElement>('box')
const phases = computed(() => (props.draft.at('phases') as JsonObject[] | undefined) ?? [])
const listsOf = (phase: JsonObject) => phase.lists as JsonObject[]
const listPath = computed(() => `phases.${chosen.value.phase}.lists.${chosen.value.list}`)
const list = computed(() => props.draft.at(listPath.value) as JsonObject | undefined)
const items = computed(() => (list.value?.items as JsonObject[] | undefined) ?? [])
const item = computed(() => items.value[at.value])
const isLocked = computed(() => typeof list.value?.locked === 'string')
const limits = computed(() => (props.draft.at('limits') as JsonObject | undefined) ?? {})
const put = (made: JsonObject[]) => props.draft.set(`${listPath.value}.items`, made)
const taken = () =>
  new Set(
    phases.value.flatMap((phase) =>
      listsOf(phase).flatMap((one) => (one.items as JsonObject[]).map((i) => String(i.id))),
    ),
  )
const options = computed(() =>
  phases.value.flatMap((phase, p) =>
    listsOf(phase).map((one, l) => ({
      value: `${p}.${l}`,
      label: `${String(phase.title)}: ${String(one.title)} (${(one.items as JsonObject[]).length})`,
    })),
  ),
)
function choose(value: string) {
  const [phase, one] = value.split('.').map(Number)
  chosen.value = { phase: phase!, list: one! }
  at.value = 0
}
async function select(to: number) {
  at.value = Math.max(0, Math.min(to, items.value.length - 1))
  await nextTick()
  box.value?.querySelector<HTMLElement>('[aria-selected=true]')?.focus()
}
function move(from: number, to: number) {
  if (isLocked.value || to < 0 || to >= items.value.length || from === to) return
  put(moved(items.value, from, to))
  void select(to)
}
function keys(event: KeyboardEvent) {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (by) {
    event.preventDefault()
    if (event.altKey) move(at.value, at.value + by)
    else void select(at.value + by)
  } else if (event.key === 'Delete') remove()
}
function insert(made: JsonObject) {
  const name = free(String(made.id ?? made.challenge), taken())
  put(items.value.toSpliced(at.value + 1, 0, { ...made, id: name }))
  void select(at.value + 1)
}
function fromLibrary(id: string) {
  const row = props.draft.page.value!.library.find((one) => one.id === id)
  if (row) insert(row.item as JsonObject)
}
const own = () => insert({ challenge: 'New item', response: 'Done', why: 'An item of my own list.', id: 'own' })
function remove() {
  if (isLocked.value || items.value.length < 2) return
  put(items.value.toSpliced(at.value, 1))
  void select(Math.min(at.value, items.value.length - 2))
}
function addList() {
  const phase = chosen.value.phase
  const rows = listsOf(phases.value[phase]!)
  const names = new Set(phases.value.flatMap((one) => listsOf(one).map((l) => String(l.id))))
  const first = { id: free('item', taken()), challenge: 'New item', response: 'Done', why: 'An item of my own list.' }
  props.draft.set(`phases.${phase}.lists`, [
    ...rows,
    { id: free('own_list', names), title: `My list ${rows.length + 1}`, items: [first] },
  ])
  choose(`${phase}.${rows.length}`)
}
function removeList() {
  const { phase, list: one } = chosen.value
  if (isLocked.value || listsOf(phases.value[phase]!).length < 2) return
  props.draft.set(`phases.${phase}.lists`, listsOf(phases.value[phase]!).toSpliced(one, 1))
  choose(`${phase}.0`)
}
/** Choose the item at a place (`phases.0.lists.1.items.2`). */
function show(place: string) {
  const found = place.match(/^phases\.(\d+)\.lists\.(\d+)(?:\.items\.(\d+))?/)
  if (!found) return
  choose(`${found[1]}.${found[2]}`)
  void select(Number(found[3] ?? 0))
}
defineExpose({ show })
</script>

<template>
  <FindReplace :draft="draft" />
  <PasteLists :draft="draft" />
  <div class="above">
    <label class="wide"
      >List
      <el-select
        :model-value="`${chosen.phase}.${chosen.list}`"
        aria-label="List"
        size="large"
        filterable
        @update:model-value="choose"
      >
        <el-option v-for="one in options" :key="one.value" :value="one.value" :label="one.label" />
      </el-select>
    </label>
    <button type="button" @click="addList">Add a list</button>
    <button type="button" :disabled="isLocked" @click="removeList">Remove this list</button>
  </div>
  <ListAbout v-if="list" :draft="draft" :path="listPath" />
  <div v-if="list" class="halves">
    <section aria-label="Items">
      <ol ref="box" role="listbox" :aria-label="`Items of ${list.title}`" @keydown="keys">
        <li
          v-for="(one, i) in items"
          :key="String(one.id)"
          role="option"
          :tabindex="i === at ? 0 : -1"
          :aria-selected="i === at"
          :draggable="!isLocked"
          :class="{ bad: wrongWithin(draft, `${listPath}.items.${i}`) }"
          @click="select(i)"
          @dragstart="dragged = i"
          @dragover.prevent
          @drop.prevent="dragged !== undefined && move(dragged, i)"
        >
          <b>{{ one.challenge }}</b> <span>{{ one.response }}</span>
          <small v-if="one.killer" class="look">killer</small>
        </li>
      </ol>
      <p class="tools">
        <button type="button" :disabled="isLocked" aria-label="Item up" @click="move(at, at - 1)">↑</button>
        <button type="button" :disabled="isLocked" aria-label="Item down" @click="move(at, at + 1)">↓</button>
        <button type="button" :disabled="isLocked || items.length < 2" @click="remove">Remove</button>
        <button type="button" :disabled="isLocked" @click="own">Add my own</button>
        <el-select
          :model-value="''"
          aria-label="Add from the library"
          placeholder="Add from the library"
          size="large"
          filterable
          :disabled="isLocked"
          @update:model-value="fromLibrary"
        >
          <el-option
            v-for="one in draft.page.value!.library"
            :key="one.id"
            :value="one.id"
            :label="`${one.challenge}: ${one.response}`"
          />
        </el-select>
      </p>
    </section>
    <section v-if="item" aria-label="Item">
      <ItemPreview :item="item" :list="list" :limits="limits" :signals="draft.page.value!.menus.signals ?? []" />
      <ItemForm :key="`${listPath}.${at}`" :draft="draft" :path="`${listPath}.items.${at}`" :locked="isLocked" />
    </section>
  </div>
</template>

<style scoped>
.above,
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
}
.wide {
  flex: 1 1 320px;
}
.tools .el-select {
  flex: 1 1 200px;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: 24px;
  align-items: start;
}
@media (max-width: 900px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
ol {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
  max-height: 62vh;
  overflow-y: auto;
  border: 2px solid var(--line);
  border-radius: 10px;
}
li {
  padding: 9px 12px;
  border-bottom: 1px solid var(--line);
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--raised);
  box-shadow: inset 5px 0 0 var(--ink);
}
li:focus-visible {
  outline: 3px solid var(--ink);
  outline-offset: -3px;
}
li.bad {
  color: var(--stop);
}
</style>

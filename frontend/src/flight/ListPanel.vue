<script setup lang="ts">
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import type { ListLine, ListStyle, ShownList } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** The whole list, a line an item: done ones with their reading and age, the current one always at the same height. */
const props = defineProps<{
  /** The list being read. */
  list: ShownList
  /** The current item's id. */
  current: string | null
  /** Whether the lists of the start may be cut to what starts the simulated engine. */
  shortens?: boolean
}>()
const flight = useFlight()
const display = useDisplay()
const box = useTemplateRef<HTMLElement>('box')
const STYLES: [ListStyle['style'], string][] = [
  ['read_do', 'Read and do'],
  ['flow_verify', 'Flow, then read'],
  ['two', 'Two people'],
]
const MARKS: Record<ListLine['state'], string> = {
  done: '✓',
  open: '',
  deferred: '↷',
  skipped: '–',
  not_applicable: '∅',
  reopened: '!',
}
const WORDS: Record<string, string> = {
  deferred: 'later',
  skipped: 'skipped',
  not_applicable: 'not applicable',
  reopened: 'open again',
}
const left = computed(() => props.list.missing.length)
/** Why an item is not done: its reason, which says how; what data opened again says so first. */
const said = (line: ListLine) =>
  display.sentence(line.state === 'reopened' || !line.note ? `${WORDS[line.state]} ${line.note ?? ''}` : line.note)
const age = (s: number) => (s < 90 ? `${s} s ago` : `${Math.round(s / 60)} min ago`)
/** The needle's figure when it was confirmed; a lever's place says nothing later. */
function reading(line: ListLine) {
  if (typeof line.shown !== 'number') return line.shown
  return line.unit ? `${display.figure(line.shown, line.unit)} ${display.label(line.unit)},` : ''
}

watch(
  [() => props.list.id, () => props.current], // not at every frame: the hand may have scrolled it
  async () => {
    await nextTick()
    const line = box.value?.querySelector<HTMLElement>('[aria-current]')
    if (box.value && line) box.value.scrollTop = line.offsetTop - box.value.clientHeight / 3
  },
  { immediate: true },
)
</script>

<template>
  <section class="list" :aria-label="list.title">
    <header>
      <b>{{ list.title }}</b>
      <span class="soft">{{ left ? `${left} open` : 'complete' }}</span>
      <button v-if="shortens" type="button" @click="flight.event('only_what_starts', {})">Only what starts it</button>
      <span class="styles" role="group" aria-label="How this list is read">
        <button
          v-for="[id, name] in STYLES"
          :key="id"
          type="button"
          :aria-pressed="list.style === id"
          @click="flight.event('list_style', { list: list.id, style: id })"
        >
          {{ name }}
        </button>
      </span>
    </header>
    <ol ref="box" tabindex="0" :aria-label="`Items of ${list.title}`">
      <li
        v-for="line in list.items"
        :key="line.id"
        :class="[line.state, { contradicted: line.contradicted }]"
        :aria-current="line.id === current ? 'step' : undefined"
      >
        <span class="mark" aria-hidden="true">{{ line.id === current ? '›' : MARKS[line.state] }}</span>
        <span class="what"
          >{{ line.challenge
          }}<template v-if="line.state === 'open'">: {{ display.sentence(line.response, line.unit) }}</template></span
        >
        <span v-if="line.state === 'done'" class="soft">
          {{ line.contradicted ? 'ticked against ' : line.by_data ? 'seen ' : line.by_word ? 'by your word ' : ''
          }}{{ reading(line) }}
          {{ age(line.age_s ?? 0) }}
        </span>
        <template v-else-if="line.state !== 'open'">
          <span class="look">{{ said(line) }}</span>
          <button
            v-if="line.state !== 'reopened'"
            type="button"
            class="plain"
            @click="flight.event('item_taken_up', { item: line.id })"
          >
            Take up
          </button>
        </template>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.list {
  flex: 1 0 46%; /* a fixed place: the list does not move when the words above it are longer */
  margin-top: auto;
  min-height: 0;
  overflow: hidden;
  display: flex;
  flex-direction: column;
  border-top: 2px solid var(--line);
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  padding: 4px 0;
}
.styles {
  margin-left: auto;
  display: flex;
  gap: 4px;
}
.styles button {
  padding: 0 10px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  position: relative;
  flex: 1;
  min-height: 0;
}
li {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 40px;
}
li[aria-current] {
  min-height: 48px;
  background: var(--raised);
  border-left: 4px solid var(--ink);
}
.mark {
  flex: none;
  width: 1.2em;
  text-align: center;
  font-weight: 700;
}
.what {
  min-width: 0;
}
li.done .what {
  color: var(--soft);
}
li.contradicted .what,
li.contradicted .soft {
  color: var(--look);
}
li[aria-current] {
  font-weight: 700;
}
li .plain {
  min-height: 34px;
  padding: 0 8px;
  text-decoration: underline;
}
li .soft,
li .look {
  margin-left: auto;
  text-align: right;
}
@media (max-height: 560px) {
  .list {
    flex: none;
  }
  ol {
    max-height: 240px;
  }
}
@media (max-width: 700px) {
  .list {
    flex: none;
    margin-top: 0;
  }
  .styles {
    margin-left: 0;
    flex-wrap: wrap;
  }
  li .soft,
  li .look {
    white-space: normal;
  }
}
</style>

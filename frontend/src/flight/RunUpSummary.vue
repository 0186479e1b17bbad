<script setup lang="ts">
import { computed } from 'vue'
import type { CardRow, Named, RunUpCard } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'
import InSpite from './InSpite.vue'

/** The run-up on one card: on to the briefing, look again, or stop, with everything that is still open. */
const props = defineProps<{
  /** The card as the core made it. */
  card: RunUpCard
  /** The phase to which a small link leads in spite of a STOP that stands. */
  onInSpite: Named | null
}>()
const flight = useFlight()
const display = useDisplay()
const MARK = { go: '✓', look: '?', stop: '✕' }
const TONE = { go: 'within', look: 'look', stop: 'stop' }
const good = computed(() => props.card.rows.filter((row) => row.verdict === 'within'))
const other = computed(() => props.card.rows.filter((row) => row.verdict !== 'within'))
/** Why comes first: a flight that went on without a word would say nothing of it. */
async function goOn(words: string, phase: string) {
  await flight.event('remark', { text: words })
  await flight.enter(phase)
}
const title = (row: CardRow) => (row.engine_name ? `${row.engine_name}, ${row.title.toLowerCase()}` : row.title)
</script>

<template>
  <section class="card" aria-label="Run-up summary">
    <h2 :class="TONE[card.grade]">{{ MARK[card.grade] }} {{ display.sentence(card.headline) }}</h2>
    <ul v-if="other.length">
      <li v-for="row in other" :key="title(row)">
        <b :class="row.verdict">{{ title(row) }}: {{ row.verdict }}.</b> {{ display.sentence(row.because) }}
        <span class="soft">{{ display.sentence(row.next) }}</span>
      </li>
    </ul>
    <p v-if="good.length"><b class="within">Within:</b> {{ good.map(title).join(', ') }}.</p>
    <p v-if="card.open.length" class="look">{{ card.open.join('. ') }}.</p>
    <table v-if="card.twin.length">
      <thead>
        <tr>
          <th>At equal levers</th>
          <th>Left</th>
          <th>Right</th>
          <th>Apart</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in card.twin" :key="row.title">
          <td>{{ row.title }}</td>
          <td>{{ row.left }}</td>
          <td>{{ row.right }}</td>
          <td :class="{ look: row.far }">{{ row.gap }}{{ row.far ? ' – look' : '' }}</td>
        </tr>
      </tbody>
    </table>
    <p class="soft">Within limits is no permission to fly: the flight manual and you decide.</p>
    <InSpite
      v-if="onInSpite"
      :say="`Go on to ${onInSpite.title} in spite of STOP …`"
      @on="(words) => goOn(words, onInSpite!.id)"
    />
  </section>
</template>

<style scoped>
.card {
  display: grid;
  gap: 8px;
  overflow: auto;
  min-height: 0;
}
h2 {
  font-size: var(--mid);
  line-height: 1.15;
}
ul {
  display: grid;
  gap: 6px;
  list-style: none;
  padding: 0;
}
table {
  border-collapse: collapse;
  text-align: left;
}
th,
td {
  padding: 2px 18px 2px 0;
}
</style>

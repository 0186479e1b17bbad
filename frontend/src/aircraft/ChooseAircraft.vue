<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { AircraftLine, LastFlown } from '@/api/schema'
import { when } from '@/records/words'

/** The aircraft that there are as rows, the last flown first, one of them chosen. */
const props = defineProps<{
  /** All of them. */
  aircraft: AircraftLine[]
  /** When each was flown last. */
  last: LastFlown[]
  /** The one on show. */
  one: AircraftLine
}>()
const chosen = defineModel<string>({ required: true })
const FILTERED_ABOVE = 8
// on a phone the chosen aircraft comes first: the others are a list that opens, and closes when one of them is chosen
const isNarrow = useMediaQuery('(max-width: 800px)')
const isOpen = ref(false)
function choose(id: string) {
  chosen.value = id
  isOpen.value = false
}
const text = ref('')
const flown = (a: AircraftLine) => props.last.find((row) => row.registration === a.registration)
const rows = computed(() =>
  props.aircraft
    .filter((a) => `${a.registration} ${a.name}`.toLowerCase().includes(text.value.trim().toLowerCase()))
    .sort((a, b) => (flown(b)?.started_utc ?? '').localeCompare(flown(a)?.started_utc ?? '')),
)
</script>

<template>
  <button v-if="isNarrow" type="button" class="open key out" :aria-expanded="isOpen" @click="isOpen = !isOpen">
    {{ isOpen ? 'Close the list' : 'Another aircraft' }}
  </button>
  <div v-if="!isNarrow || isOpen" class="choose">
    <el-input
      v-if="aircraft.length > FILTERED_ABOVE"
      v-model="text"
      placeholder="Find an aircraft"
      aria-label="Find an aircraft"
      size="large"
    />
    <div role="group" aria-label="Aircraft" class="rows">
      <button v-for="a in rows" :key="a.id" type="button" :aria-pressed="a.id === one.id" @click="choose(a.id)">
        <b>{{ a.registration }}</b>
        <span>{{ a.name }}</span>
        <small>
          {{ flown(a) ? when(flown(a)!.started_utc) : 'not flown yet'
          }}<b v-if="flown(a)?.verdict && flown(a)?.verdict !== 'within'">, {{ flown(a)!.verdict }}</b>
        </small>
      </button>
    </div>
    <p v-if="!rows.length" class="soft">No aircraft is called that.</p>
  </div>
</template>

<style scoped>
.choose {
  display: grid;
  gap: 8px;
}
.rows {
  display: grid;
  gap: 4px;
}
.open {
  width: 100%;
  text-align: left;
}
.rows button {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 0 10px;
  text-align: left;
  padding: 6px 12px;
}
small {
  grid-column: 2;
}
</style>

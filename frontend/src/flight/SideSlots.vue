<script setup lang="ts">
import type { SideSlot } from '@/api/schema'

/** The two sides of the check: an empty one is still to be made, a full one shows its drop. */
defineProps<{
  /** The sides, in the order of the switch. */
  slots: SideSlot[]
}>()
const SAY = { open: 'still to be made', going: 'being made', done: 'measured' }
</script>

<template>
  <ul class="slots" aria-label="Sides of this check">
    <li v-for="slot in slots" :key="slot.name" :class="slot.state">
      <span class="name">{{ slot.name }}</span>
      <b v-if="slot.drop !== null">−{{ slot.drop }}</b>
      <span class="soft">{{ slot.drop === null ? SAY[slot.state] : `${slot.unit}, at most ${slot.most}` }}</span>
    </li>
  </ul>
</template>

<style scoped>
.slots {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 12px;
  min-height: 56px;
  padding: 6px 14px;
  border: 2px dashed var(--edge);
  border-radius: 10px;
}
li.done {
  border: 2px solid var(--ink);
}
li.going {
  border: 2px solid var(--ink);
  background: var(--raised);
}
.name {
  font-size: 22px;
  text-transform: capitalize;
}
b {
  font-size: 32px;
  line-height: 1;
}
</style>

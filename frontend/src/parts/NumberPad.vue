<script setup lang="ts">
/** A big number pad for one figure. Digits from the keyboard go in as well, through `model`. */
const model = defineModel<string>({ required: true })
defineProps<{
  /** Whether the figure may have decimals. */
  decimals?: boolean
}>()
defineEmits<{
  /** The figure is typed. */
  done: []
}>()
const MOST_DIGITS = 5
const add = (digit: string) => model.value.length < MOST_DIGITS && (model.value += digit)
const back = () => (model.value = model.value.slice(0, -1))
</script>

<template>
  <div class="pad" role="group" aria-label="Number pad">
    <button
      v-for="digit in ['7', '8', '9', '4', '5', '6', '1', '2', '3']"
      :key="digit"
      type="button"
      @click="add(digit)"
    >
      {{ digit }}
    </button>
    <button type="button" aria-label="Delete last digit" @click="back">⌫</button>
    <button type="button" @click="add('0')">0</button>
    <button v-if="decimals" type="button" aria-label="Decimal point" @click="add('.')">.</button>
    <button
      type="button"
      class="main ok"
      :class="{ wide: decimals }"
      aria-label="Take this figure"
      @click="$emit('done')"
    >
      OK
    </button>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  grid-template-columns: repeat(3, minmax(56px, 84px));
  gap: 6px;
}
@media (max-width: 700px) {
  .pad {
    flex: 1;
    grid-template-columns: repeat(3, 1fr);
  }
}
.pad button {
  min-height: 64px;
  font-size: var(--mid);
}
.pad .wide {
  grid-column: 1 / -1;
}
</style>

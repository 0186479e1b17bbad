<script setup lang="ts">
import { ref } from 'vue'

/** The small way on after a STOP: it asks why, and what was answered stays on record. */
defineProps<{
  /** What going on means, as the small button says it. */
  say: string
}>()
const emit = defineEmits<{
  /** The pilot goes on; the words for the record. */
  on: [words: string]
}>()
const asks = ref(false)
const why = ref('')
function go() {
  const reason = why.value.trim()
  if (!reason) return
  emit('on', `Went on in spite of STOP: ${reason}`)
  asks.value = false
  why.value = ''
}
</script>

<template>
  <div class="spite">
    <button type="button" class="plain" :aria-expanded="asks" @click="asks = !asks">{{ say }}</button>
    <form v-if="asks" @submit.prevent="go">
      <label>
        Why? It stays on record, and STOP is said again at take-off power.
        <input v-model="why" maxlength="140" autocomplete="off" />
      </label>
      <button type="submit" :disabled="!why.trim()">Go on, on record</button>
    </form>
  </div>
</template>

<style scoped>
.plain {
  padding: 0;
  text-decoration: underline;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: end;
}
input {
  display: block;
  width: min(420px, 100%);
  min-height: 48px;
  padding: 0 10px;
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 2px solid var(--edge);
  border-radius: 6px;
}
</style>

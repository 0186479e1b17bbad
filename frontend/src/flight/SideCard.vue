<script setup lang="ts">
/** Something beside the flight (keys, emergency), never over it as a modal dialog: the screen behind goes on. */
defineProps<{
  /** What it is. */
  title: string
  /** Over the list, so that levers, the main button and the emergency card stay within reach. */
  overList?: boolean
}>()
defineEmits<{
  /** Close it. */
  closed: []
}>()
</script>

<template>
  <aside class="card" :class="{ over: overList }" :aria-label="title">
    <header>
      <h2>{{ title }}</h2>
      <button type="button" @click="$emit('closed')">Close</button>
    </header>
    <slot />
  </aside>
</template>

<style scoped>
.card {
  position: fixed;
  right: 0;
  top: 0;
  bottom: 0;
  width: min(440px, 100vw);
  overflow-y: auto;
  background: var(--raised);
  border-left: 2px solid var(--ink);
  padding: 12px 20px;
  z-index: 5;
}
.over {
  inset: 62px auto 84px 0;
  border: 2px solid var(--ink);
  border-left: 0;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
h2 {
  font-size: var(--mid);
}
</style>

<script setup lang="ts">
import type { Method } from '@/api/schema'
import { useDisplay } from './display'

/** How one kind of verdict is made: what is measured, and what each word is given for. */
defineProps<{
  /** The method as the core words it. */
  method: Method
}>()
const display = useDisplay()
</script>

<template>
  <div class="method">
    <p>{{ display.sentence(method.measured) }}</p>
    <ul>
      <li v-for="rule in method.rules" :key="rule.given_for">
        <b :class="rule.verdict">{{ rule.verdict }}</b>: {{ display.sentence(rule.given_for) }}
        <span class="soft">({{ rule.source }})</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.method {
  max-width: 78ch;
}
ul {
  margin: 4px 0 0;
  padding-left: 20px;
}
</style>

<script setup lang="ts">
import DisplaySwitches from './DisplaySwitches.vue'

/** A page away from the engine: the way back, what it is, the switches, and what went wrong in words. */
defineProps<{
  /** Where the way back leads, and its label. */
  back?: { to: string; say: string }
  /** What this page is. */
  title?: string
  /** What went wrong, in words; empty where nothing did. */
  problem?: string
}>()
</script>

<template>
  <main class="page">
    <header>
      <RouterLink v-if="back" :to="back.to" class="key out">‹ {{ back.say }}</RouterLink>
      <slot name="title">
        <b v-if="title">{{ title }}</b>
      </slot>
      <nav>
        <slot name="tools" />
        <DisplaySwitches />
      </nav>
    </header>
    <p v-if="problem" class="look" role="alert">
      <b>{{ problem }}</b>
    </p>
    <slot />
  </main>
</template>

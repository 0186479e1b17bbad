<script setup lang="ts">
import { useDisplay } from '@/parts/display'

useDisplay()
  .load()
  .catch(() => undefined) // each view says for itself that the server is away
</script>

<template><RouterView /></template>

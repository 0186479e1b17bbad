<script setup lang="ts">
import PageFrame from '@/parts/PageFrame.vue'

/** An address without a page: it says so, and leads to one that is. */
</script>

<template>
  <PageFrame title="No such page">
    <p role="alert">Jemmon has no page at this address. It may be mistyped, or from a later version.</p>
    <p><RouterLink to="/" class="way">All aircraft</RouterLink></p>
  </PageFrame>
</template>

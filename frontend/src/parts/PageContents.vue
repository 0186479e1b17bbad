<script setup lang="ts">
/** What a long page holds, as ways to it, and the field that narrows it. */
defineProps<{
  /** The parts of the page: the id of each and its heading. */
  parts: { id: string; title: string }[]
  /** What is looked for. */
  finds: string
}>()
const wanted = defineModel<string>({ required: true })
</script>

<template>
  <div class="contents">
    <el-input v-model="wanted" :placeholder="finds" :aria-label="finds" clearable size="large" class="find" />
    <nav aria-label="On this page">
      <a v-for="part in parts" :key="part.id" :href="`#${part.id}`">{{ part.title }}</a>
    </nav>
  </div>
</template>

<style scoped>
.contents {
  margin: 8px 0 16px;
}
.find {
  max-width: 420px;
}
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
}
a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
}
</style>

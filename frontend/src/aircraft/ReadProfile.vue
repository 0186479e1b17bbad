<script setup lang="ts">
import { ref } from 'vue'
import { answer, api, asFile } from '@/api/client'
import { useSending } from '@/api/useAnswer'

/** Read an aircraft's profile in from a file; what is wrong with it is said with its place. */
const emit = defineEmits<{
  /** The profile of this id was taken. */
  taken: [id: string]
}>()
const said = ref('')
const { problem, go } = useSending(async (file: File) => {
  const { aircraft } = await answer(api.POST('/api/aircraft', { body: file as never, ...asFile }))
  said.value = `${aircraft.registration} is read in.`
  emit('taken', aircraft.id)
})

async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  said.value = ''
  await go(file)
  input.value = ''
}
</script>

<template>
  <p class="file">
    <label>Read an aircraft profile in (JSON) <input type="file" accept=".json" @change="read" /></label>
    <span v-if="said" role="status">{{ said }}</span>
    <span v-if="problem" class="look" role="alert">{{ problem }}</span>
  </p>
</template>

<style scoped>
.file {
  margin: 10px 0 24px;
}
.file input {
  font: inherit;
  min-height: 48px;
}
</style>

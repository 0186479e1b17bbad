<script setup lang="ts">
import { ref } from 'vue'
import { answer, api, asFile, Problem } from '@/api/client'
import { useSending } from '@/api/useAnswer'
import { useDisplay } from '@/parts/display'

/** Read an aircraft's profile in from a file; what is wrong with it is said with its place. */
const emit = defineEmits<{
  /** The profile of this id was taken. */
  taken: [id: string]
}>()
const display = useDisplay()
const said = ref('')
const asks = ref<{ why: string; file: File }>()
const { problem, go } = useSending(async (file: File, replace: boolean) => {
  asks.value = undefined
  try {
    const params = { query: { replace } }
    const { aircraft } = await answer(api.POST('/api/aircraft', { params, body: file as never, ...asFile }))
    said.value = `${aircraft.registration} is read in.`
    emit('taken', aircraft.id)
  } catch (error) {
    if (!(error instanceof Problem) || error.code !== 'takes_place') throw error
    asks.value = { why: error.message, file }
  }
})

async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  said.value = ''
  await go(file, false)
  input.value = ''
}
</script>

<template>
  <p class="file">
    <label>Read an aircraft profile in (JSON) <input type="file" accept=".json" @change="read" /></label>
    <span v-if="said" role="status">{{ said }}</span>
    <span v-if="asks" class="look" role="alert">
      {{ display.sentence(asks.why) }}
      <button type="button" @click="go(asks.file, true)">Take its place</button>
      <button type="button" @click="asks = undefined">Leave it</button>
    </span>
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

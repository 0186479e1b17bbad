<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useEnding } from './ending'

/** The ways to end a flight that goes on: keep its record, or discard it. Either can be taken back for ten seconds. */
const props = defineProps<{
  /** The flight. */
  flight: string
  /** Its aircraft. */
  registration: string
}>()
const emit = defineEmits<{
  /** It is over. */
  ended: []
}>()
const ending = useEnding()
const router = useRouter()
async function end(isDiscarded: boolean) {
  await ending.end(props.flight, props.registration, isDiscarded)
  if (ending.problem) return
  emit('ended')
  await router.push(isDiscarded ? '/' : `/records/${props.flight}`)
}
</script>

<template>
  <button type="button" @click="end(false)">End and keep</button>
  <button type="button" @click="end(true)">Discard</button>
  <b v-if="ending.problem" class="look" role="alert">{{ ending.problem }}</b>
</template>

<script setup lang="ts">
import { useDisplay } from '@/parts/display'
import { useEnding } from '@/parts/ending'
import { useUnlockedSound } from '@/flight/useTones'
import { useRouter } from 'vue-router'

const ending = useEnding()
const router = useRouter()
useUnlockedSound()
useDisplay()
  .load()
  .catch(() => undefined) // each view says for itself that the server is away
async function goOn() {
  await ending.takeBack()
  if (!ending.problem) await router.push('/flight')
}
</script>

<template>
  <RouterView />
  <p v-if="ending.ended" class="ended" role="status">
    {{ ending.ended.words }} <button type="button" @click="goOn">Take that back</button>
    <b v-if="ending.problem" class="look">{{ ending.problem }}</b>
  </p>
</template>

<style scoped>
.ended {
  position: fixed;
  left: 12px;
  bottom: 12px;
  z-index: 8;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 8px 14px;
  border: 2px solid var(--ink);
  border-radius: 10px;
  background: var(--raised);
}
</style>

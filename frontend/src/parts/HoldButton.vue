<script setup lang="ts">
import { onScopeDispose, ref } from 'vue'

/** A button that acts only while it is held, and says so again every 0.5 s; let go on blur, cancel and leave. */
const emit = defineEmits<{
  /** Still held. */
  held: []
  /** Let go. */
  released: []
}>()
const RENEW_MS = 500
const isHeld = ref(false)
let timer: ReturnType<typeof setInterval> | undefined

function press() {
  if (isHeld.value) return
  isHeld.value = true
  emit('held')
  timer = setInterval(() => emit('held'), RENEW_MS)
}
function release() {
  if (!isHeld.value) return
  isHeld.value = false
  clearInterval(timer)
  emit('released')
}
addEventListener('blur', release)
onScopeDispose(() => {
  removeEventListener('blur', release)
  release()
})
defineExpose({ press, release })
</script>

<template>
  <button
    type="button"
    :aria-pressed="isHeld"
    @pointerdown.prevent="press"
    @pointerup="release"
    @pointercancel="release"
    @pointerleave="release"
    @keydown.space.prevent="press"
    @keyup.space.prevent="release"
    @blur="release"
    @contextmenu.prevent
  >
    <slot />
  </button>
</template>

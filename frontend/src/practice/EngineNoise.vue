<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { onBeforeUnmount, watch } from 'vue'
import type { EngineSound } from '@/api/schema'
import { engineSound } from './engineSound'

/** The simulated engine is heard, and muted by one tap. */
const props = defineProps<{
  /** How each engine sounds now. */
  sounds: readonly EngineSound[]
}>()
const isOn = useLocalStorage('engine_sound', false)
let sound: ReturnType<typeof engineSound> | undefined

function hush() {
  sound?.stop()
  sound = undefined
}
watch(
  () => [isOn.value, props.sounds] as const,
  ([on, now]) => {
    if (!on) return hush()
    sound ??= engineSound()
    sound.play(now)
  },
  { immediate: true },
)
// browsers keep a page silent until it is touched
useEventListener('pointerdown', () => sound?.resume())
useEventListener('keydown', () => sound?.resume())
onBeforeUnmount(hush)
</script>

<template>
  <button type="button" :aria-pressed="isOn" @click="isOn = !isOn">
    {{ isOn ? 'Engine heard' : 'Engine silent' }}
  </button>
</template>

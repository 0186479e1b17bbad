<script setup lang="ts">
import { ref } from 'vue'
import type { Spot } from '@/api/schema'

/** The photo of a panel with rings at the controls; a tap says where. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
  /** Where the controls are. */
  spots: Spot[]
  /** The control that is shown larger. */
  chosen: string
  /** Whether a tap means something. */
  canTap?: boolean
}>()
const emit = defineEmits<{
  /** Where it was touched, from the left and the top edge (0 to 1). */
  tap: [x: number, y: number]
}>()
function tap(event: MouseEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  if (props.canTap) emit('tap', (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height)
}
const STEP = 0.01
const cross = ref<{ x: number; y: number }>()
/** Arrows move a cross over the photo, with Shift by more; Enter marks where it is. */
function keys(event: KeyboardEvent) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
  if (!props.canTap || (!by && event.key !== 'Enter')) return
  event.preventDefault()
  const at = cross.value ?? { x: 0.5, y: 0.5 }
  if (!by) return emit('tap', at.x, at.y)
  const within = (value: number) => Math.min(Math.max(value, 0), 1)
  const step = event.shiftKey ? 5 * STEP : STEP
  cross.value = { x: within(at.x + by[0]! * step), y: within(at.y + by[1]! * step) }
}
/** A policy of the page forbids styles in the text: a ring is put where it belongs by the script. */
function place(ring: unknown, spot: { x: number; y: number }) {
  if (!(ring instanceof HTMLElement)) return
  ring.style.left = `${spot.x * 100}%`
  ring.style.top = `${spot.y * 100}%`
}
</script>

<template>
  <div
    class="photo"
    :class="{ aims: canTap }"
    :tabindex="canTap ? 0 : undefined"
    :role="canTap ? 'application' : undefined"
    :aria-label="canTap ? 'The panel: arrows move the cross, Enter marks' : undefined"
    @click="tap"
    @keydown="keys"
  >
    <img :src="`/api/aircraft/${id}/panel.jpg`" alt="The panel" draggable="false" />
    <span
      v-for="spot in spots"
      :key="spot.control"
      :ref="(ring) => place(ring, spot)"
      class="ring"
      :class="{ chosen: spot.control === chosen }"
    />
    <span v-if="cross" :ref="(mark) => place(mark, cross!)" class="cross" aria-hidden="true">+</span>
  </div>
</template>

<style scoped>
.photo {
  position: relative;
  line-height: 0;
}
.aims {
  cursor: crosshair;
}
img {
  width: 100%;
  border-radius: 10px;
}
.ring {
  position: absolute;
  width: 28px;
  height: 28px;
  margin: -14px 0 0 -14px;
  border: 3px solid #fff;
  outline: 2px solid #000;
  border-radius: 50%;
  pointer-events: none;
}
.cross {
  position: absolute;
  margin: -16px 0 0 -9px;
  font-size: 32px;
  line-height: 1;
  color: #fff;
  text-shadow: 0 0 3px #000;
  pointer-events: none;
}
.ring.chosen {
  width: 64px;
  height: 64px;
  margin: -32px 0 0 -32px;
  border-width: 6px;
}
</style>

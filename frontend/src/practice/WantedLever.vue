<script setup lang="ts">
import { storeToRefs } from 'pinia'
import { computed } from 'vue'
import LeverSliders from './LeverSliders.vue'
import { useHands } from './hands'
import { MAGS, useOwning } from './owning'
import { useCockpit } from './useCockpit'

/** The lever or switch that an item asks for, beside the item: the same as in the column of levers, nearer to the eye. */
const props = defineProps<{
  /** Which one, as the item names it. */
  wanted: string
  /** Where the levers stand, from the newest frame. */
  levers: Record<string, number | string>
}>()
const hands = useHands()
const { cockpit } = storeToRefs(useCockpit())
const { ownOf } = useOwning(cockpit, () => 1)
/** It, and whose it is. A starter is not among them: it is held, and this place changes under the finger. */
const found = computed(() =>
  cockpit.value.controls
    .filter((control) => control.kind !== 'hold')
    .flatMap((control) => ownOf(control).map((own) => ({ control, own: { ...own, side: '' } })))
    .find(({ own }) => own.id === props.wanted),
)
const at = computed(() => props.levers[props.wanted] ?? 0)
/** What can be chosen, what of it is so now, and what choosing it says. */
const choices = computed(() => {
  const one = found.value?.control
  if (!one || one.kind === 'slider') return []
  if (one.kind === 'mag') return MAGS.map((m) => ({ say: m, to: m, is: at.value === m }))
  if (one.kind === 'positions')
    return one.positions.map((p) => ({ say: p.name, to: p.at, is: Math.abs(Number(at.value) - p.at) < 0.1 }))
  return [0, 1].map((to) => ({ say: to ? 'On' : 'Off', to, is: Number(at.value) > 0.5 === (to === 1) }))
})
</script>

<template>
  <div v-if="found" class="wanted-lever" role="group" :aria-label="`Wanted now: ${found.own.full}`">
    <LeverSliders
      v-if="found.control.kind === 'slider'"
      :controls="[{ ...found.control, name: found.own.full }]"
      :own-of="() => [{ ...found!.own, full: `${found!.own.full}, wanted now` }]"
      :levers="levers"
      :wanted="null"
    />
    <template v-else>
      <span>{{ found.own.full }}</span>
      <button
        v-for="one in choices"
        :key="one.say"
        type="button"
        :aria-label="`${found.own.full} ${one.say.toLowerCase()}, wanted now`"
        :aria-pressed="one.is"
        @click="hands.move({ [wanted]: one.to })"
      >
        {{ one.say }}
      </button>
    </template>
  </div>
</template>

<style scoped>
.wanted-lever {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  max-width: 560px;
}
.wanted-lever > :deep(.lever) {
  flex: 1;
  padding-left: 0;
}
span {
  min-width: 92px;
}
button {
  min-width: 72px;
}
</style>

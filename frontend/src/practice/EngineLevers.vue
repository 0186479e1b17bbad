<script setup lang="ts">
import { storeToRefs } from 'pinia'
import { computed, onMounted, useTemplateRef } from 'vue'
import HoldButton from '@/parts/HoldButton.vue'
import LeverSliders from './LeverSliders.vue'
import { useHands } from './hands'
import { MAGS, useOwning } from './owning'
import { useCockpit } from './useCockpit'

/** Levers and switches of the simulated engines, as the aircraft has them, a twin's own ones side by side. Two screens show the same;
 * the last hand wins. */
const props = defineProps<{
  /** Where the levers stand, from the newest frame. */
  levers: Record<string, number | string>
  /** The lever that the current item is about. */
  wanted: string | null
  /** The engine that the screen is about: the keys move its levers. */
  engine: number
}>()
const hands = useHands()
const held = useTemplateRef<InstanceType<typeof HoldButton>[]>('held')
const known = useCockpit()
const { cockpit } = storeToRefs(known)
onMounted(known.load)

const { isTwin, of, ownOf, owns, actions, full } = useOwning(cockpit, () => props.engine)
const hasLock = computed(() => props.levers.primer_unlocked !== undefined)
const isOn = (name: string) => Number(props.levers[name] ?? 0) > 0.5
const isWanted = (name: string) => props.wanted === name
const turn = (name: string) => hands.move({ [name]: isOn(name) ? 0 : 1 })
const holding = (name: string) => ({
  held: () => hands.move({ [name]: true }),
  released: () => hands.move({ [name]: false }),
})
const flip = (name: string) => turn(full(name))
const sliders = useTemplateRef('sliders')
const mag = (to: string, name = full('mag')) => hands.move({ [name]: to })
const lock = () => hands.move({ primer_unlocked: false })
const starter = () => owns('hold').findIndex((c) => c.id === full('starter') || c.id === full('mesh'))

defineExpose({
  /** Give a lever the focus, so that arrows move it. */
  focus: (name: string) => sliders.value?.focus(full(name)),
  flip,
  mag,
  lock,
  press: () => held.value?.[starter()]?.press(),
  release: () => held.value?.[starter()]?.release(),
})
</script>

<template>
  <section class="levers" aria-label="Levers of the simulated engine">
    <LeverSliders ref="sliders" :controls="of('slider')" :own-of="ownOf" :levers="levers" :wanted="wanted" />
    <div
      v-for="o in of('positions').flatMap((c) => ownOf(c).map((own) => ({ ...own, positions: c.positions })))"
      :key="o.id"
      class="row turned"
      role="group"
      :aria-label="o.full"
      :class="{ wanted: isWanted(o.id) }"
    >
      <span>{{ o.full }}</span>
      <button
        v-for="p in o.positions"
        :key="p.name"
        type="button"
        :aria-pressed="Math.abs(Number(levers[o.id] ?? 0) - p.at) < 0.1"
        @click="hands.move({ [o.id]: p.at })"
      >
        {{ p.name }}
      </button>
    </div>
    <div
      v-for="o in owns('mag')"
      :key="o.id"
      class="row"
      role="group"
      :aria-label="o.side ? `Magneto switch, ${o.side.toLowerCase()} engine` : 'Magneto switch'"
      :class="{ wanted: isWanted(o.id) }"
    >
      <span v-if="o.side" class="side-name">{{ o.side }}</span>
      <button
        v-for="m in MAGS"
        :key="m"
        type="button"
        :aria-pressed="levers[o.id] === m"
        :aria-label="o.side ? `Magnetos ${m}, ${o.side.toLowerCase()} engine` : `Magnetos ${m}`"
        @click="mag(m, o.id)"
      >
        {{ m }}
      </button>
    </div>
    <template v-if="isTwin">
      <div
        v-for="c in [...of('hold'), ...of('switch').filter((one) => !one.shared)]"
        :key="c.id"
        class="row turned"
        role="group"
        :aria-label="c.name"
        :class="{ wanted: ownOf(c).some((o) => isWanted(o.id)) }"
      >
        <span>{{ c.name }}</span>
        <template v-for="o in ownOf(c)" :key="o.id">
          <HoldButton v-if="c.kind === 'hold'" ref="held" :aria-label="o.full" v-on="holding(o.id)">
            {{ o.side }}
          </HoldButton>
          <button v-else type="button" :aria-label="o.full" :aria-pressed="isOn(o.id)" @click="turn(o.id)">
            {{ o.side }}
          </button>
        </template>
      </div>
    </template>
    <div v-else class="row">
      <HoldButton
        v-for="c in of('hold')"
        :key="c.id"
        ref="held"
        :class="{ wanted: isWanted(c.id) }"
        v-on="holding(c.id)"
      >
        {{ c.name }}
      </HoldButton>
    </div>
    <div class="row wraps">
      <button
        v-for="a in actions"
        :key="a.id"
        type="button"
        :class="{ wanted: a.id === 'prime_strokes' && wanted?.startsWith('primer') }"
        @click="hands.act(a.id)"
      >
        {{ a.name }}
      </button>
      <button v-if="hasLock" type="button" :aria-pressed="isOn('primer_unlocked')" @click="lock">
        {{ isOn('primer_unlocked') ? 'Lock' : 'Locked' }}
      </button>
      <button
        v-for="c in of('switch').filter((one) => one.shared || !isTwin)"
        :key="c.id"
        type="button"
        :aria-pressed="isOn(c.id)"
        :class="{ wanted: isWanted(c.id) }"
        @click="turn(c.id)"
      >
        {{ c.name }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.levers {
  display: grid;
  flex: none; /* the column scrolls; the levers keep their height */
  gap: 6px;
}
.side-name {
  flex: 0 0 48px;
  align-self: center;
}
.row {
  display: flex;
  gap: 6px;
}
.wraps {
  flex-wrap: wrap;
}
.row > * {
  flex: 1 1 auto;
  padding: 0 6px;
  line-height: 1.1;
}
.row.wanted {
  border-left: 4px solid var(--ink);
  padding-left: 8px;
}
button.wanted {
  border-color: var(--ink);
  border-style: dashed;
}
.turned {
  align-items: center;
}
.turned > span {
  flex: 1 1 96px;
  padding-left: 8px;
}
</style>

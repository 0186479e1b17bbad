<script setup lang="ts">
import { useThrottleFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { answer, api } from '@/api/client'
import type { Cockpit, Control } from '@/api/schema'
import { useAnswer } from '@/api/useAnswer'
import HoldButton from '@/parts/HoldButton.vue'
import { useHands } from './hands'

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
const NOTHING: Cockpit = { engines: [], controls: [], actions: [] }
const { answer: known } = useAnswer(() => answer(api.GET('/api/live/cockpit')))
const cockpit = computed(() => known.value ?? NOTHING)
const MAGS = ['OFF', 'L', 'R', 'BOTH']

const isTwin = computed(() => cockpit.value.engines.length > 1)
const prefixOf = (engine: number) => (engine === 2 ? 'e2_' : '')
const of = (kind: Control['kind']) => cockpit.value.controls.filter((c) => c.kind === kind)
const hasLock = computed(() => props.levers.primer_unlocked !== undefined)

/** A lever of one engine: its name for the hand, in full for who hears it, and the side alone. */
interface Own {
  id: string
  name: string
  full: string
  side: string
}
const sideOf = (engine: string) => engine.split(' ')[0]!
const ownOf = (control: { id: string; name: string; shared?: boolean }): Own[] =>
  isTwin.value && !control.shared
    ? cockpit.value.engines.map((e) => ({
        id: prefixOf(e.number) + control.id,
        name: `${sideOf(e.name)} ${control.name.toLowerCase()}`,
        full: `${control.name}, ${e.name.toLowerCase()}`,
        side: sideOf(e.name),
      }))
    : [{ id: control.id, name: control.name, full: control.name, side: '' }]
const owns = (kind: Control['kind']) => of(kind).flatMap(ownOf)
const actions = computed(() =>
  cockpit.value.actions.flatMap((a) => (a.id === 'prime_strokes' ? [{ id: a.id, name: a.name }] : ownOf(a))),
)
/** The lever that a key moves: of the engine that the screen is about. */
const full = (name: string) => {
  const control = cockpit.value.controls.find((c) => c.id === name)
  return control && !control.shared ? prefixOf(isTwin.value ? props.engine : 1) + name : name
}

/** What the hand has just set; the frame catches up within a tick or two. */
const hand = ref<Record<string, number>>({})
let lastHand = 0
const push = useThrottleFn((name: string, value: number) => hands.move({ [name]: value }), 80, true)
function slide(name: string, value: number) {
  const kept = Math.min(Math.max(value, 0), 1)
  hand.value[name] = kept
  lastHand = performance.now()
  void push(name, kept)
}
watch(
  () => props.levers,
  () => performance.now() - lastHand > 700 && (hand.value = {}),
)
const position = (name: string) => hand.value[name] ?? Number(props.levers[name] ?? 0)
const percent = (name: string) => Math.round(position(name) * 100)
const isOn = (name: string) => Number(props.levers[name] ?? 0) > 0.5
const isWanted = (name: string) => props.wanted === name
const turn = (name: string) => hands.move({ [name]: isOn(name) ? 0 : 1 })
const holding = (name: string) => ({
  held: () => hands.move({ [name]: true }),
  released: () => hands.move({ [name]: false }),
})
const flip = (name: string) => turn(full(name))
const sliders = useTemplateRef<HTMLInputElement[]>('sliders')
/** Give a lever the focus, so that arrows move it. */
const focus = (name: string) => sliders.value?.find((slider) => slider.dataset.lever === full(name))?.focus()
const mag = (to: string, name = full('mag')) => hands.move({ [name]: to })
const lock = () => hands.move({ primer_unlocked: false })
const starter = () => owns('hold').findIndex((c) => c.id === full('starter') || c.id === full('mesh'))

defineExpose({
  focus,
  flip,
  mag,
  lock,
  press: () => held.value?.[starter()]?.press(),
  release: () => held.value?.[starter()]?.release(),
})
</script>

<template>
  <section class="levers" aria-label="Levers of the simulated engine">
    <div v-for="c in of('slider')" :key="c.id" class="lever" :class="{ wanted: ownOf(c).some((o) => isWanted(o.id)) }">
      <span class="name"
        >{{ c.name
        }}<b v-if="isTwin"
          >{{
            ownOf(c)
              .map((o) => percent(o.id))
              .join(' · ')
          }}
          %</b
        ></span
      >
      <div class="own">
        <label v-for="o in ownOf(c)" :key="o.id">
          <input
            ref="sliders"
            :data-lever="o.id"
            type="range"
            min="0"
            max="1"
            step="0.005"
            :value="position(o.id)"
            :aria-label="o.full"
            @input="slide(o.id, Number(($event.target as HTMLInputElement).value))"
          />
          <b v-if="!isTwin">{{ percent(o.id) }} %</b>
          <span v-if="c.positions.length" class="row">
            <button
              v-for="p in c.positions"
              :key="p.name"
              type="button"
              :aria-label="o.side ? `${p.name}, ${o.side.toLowerCase()}` : p.name"
              @click="slide(o.id, p.at)"
            >
              {{ p.name }}
            </button>
          </span>
        </label>
      </div>
    </div>
    <div
      v-for="o in of('positions').flatMap((c) => ownOf(c).map((own) => ({ ...own, positions: c.positions })))"
      :key="o.id"
      class="row turned"
      role="group"
      :aria-label="o.full"
      :class="{ wanted: isWanted(o.id) }"
    >
      <span>{{ o.name }}</span>
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
.lever {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  align-items: center;
  gap: 0 8px;
  padding-left: 8px;
}
.own {
  display: flex;
  gap: 10px;
}
label {
  flex: 1;
  min-width: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 3.6em;
  align-items: center;
  gap: 0 6px;
}
label b {
  text-align: right;
}
label .row {
  grid-column: 1 / -1;
}
.own label:not(:only-child) {
  grid-template-columns: minmax(0, 1fr);
}
.lever .name b {
  display: block;
}
.side-name {
  flex: 0 0 48px;
  align-self: center;
}
input[type='range'] {
  width: 100%;
  height: 48px;
  margin: 0;
  accent-color: var(--key);
  touch-action: pan-y;
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
button.wanted {
  border-color: var(--ink);
  border-style: dashed;
}
.lever.wanted,
.row.wanted {
  border-left: 4px solid var(--ink);
  padding-left: 8px;
}
.turned {
  align-items: center;
}
.turned > span {
  flex: 1 1 96px;
  padding-left: 8px;
}
</style>

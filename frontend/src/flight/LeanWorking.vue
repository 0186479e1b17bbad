<script setup lang="ts">
import { computed, watch } from 'vue'
import type { LeanWorking, ShownFinding } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import { useTones } from './useTones'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** Leaning as it is done: EGT of each cylinder against fuel flow, or over the last minutes where no fuel flow is shown; peaks
 * marked, distance and direction in big figures. */
const props = defineProps<{
  /** The leaning so far; null before the mixture moves. */
  working: LeanWorking | null
  /** The last lean finding. */
  finding: ShownFinding | null
  /** Hottest cylinder head before anything moves, °F. */
  chtF: number | null
}>()
const flight = useFlight()
const display = useDisplay()
const tones = useTones()
watch(
  () => props.working?.peaks.length ?? 0,
  (now, before) => now > before && tones.peak(),
)
/** Why the chosen target is not for this power, or for this engine. */
const refused = computed(() => flight.frame?.power?.refused[flight.frame.lean_target ?? ''])
const cylinders = computed(() => Object.keys(props.working?.egt_f ?? {}))
const DASHES = [[], [8, 4], [2, 3], [10, 3, 2, 3]]
const lines = computed(() =>
  cylinders.value.map((c, k) => ({
    label: c,
    scale: 'egt',
    dash: DASHES[k % 4],
    points: false,
    width: Number(c) === props.working?.first ? 4 : undefined, // the first to peak is what one leans by
  })),
)
const data = computed(() => {
  const w = props.working
  if (!w)
    return [
      [0, 1],
      [null, null],
    ]
  if (!w.flow_gph.length)
    return [w.ago_s, ...cylinders.value.map((c) => w.egt_f[c]!.map((v) => display.number(v!, 'f')))]
  const order = w.flow_gph.map((_, i) => i).sort((a, b) => w.flow_gph[a]! - w.flow_gph[b]!)
  const x = order.map((i) => display.number(w.flow_gph[i]!, 'gph') + i * 1e-7)
  return [x, ...cylinders.value.map((c) => order.map((i) => display.number(w.egt_f[c]![i]!, 'f')))]
})
/** The own position: the newest fuel flow. */
const here = computed(() => {
  const flow = props.working?.flow_gph.at(-1)
  return flow === undefined ? undefined : display.number(flow, 'gph')
})
/** Who peaks first and last, and how far apart. */
const order = computed(() => {
  const w = props.working
  const last = w?.last ? `, last ${w.last}` : ''
  const apart = w?.spread_gph != null ? `, ${display.figure(w.spread_gph, 'gph')} ${display.label('gph')} apart` : ''
  return `First to peak ${w?.first}${last}${apart}`
})
/** What the exhausts are drawn against. */
const along = computed(() => (props.working?.ago_s.length ? 'seconds' : `fuel flow ${display.label('gph')}`))
/** What is known of the side. */
const where = computed(() => {
  const w = props.working
  if (!w || w.offset_f === null) return 'peak not found yet'
  return w.side === 'unknown' ? 'below peak' : `${w.side} of peak`
})
/** The fuel flows that this power is not left between. */
const band = computed<[number, number] | undefined>(() => {
  const avoid = props.working?.avoid_gph
  return avoid ? [display.number(avoid.lean_end, 'gph'), display.number(avoid.rich_end, 'gph')] : undefined
})
const marks = computed(() =>
  (props.working?.peaks ?? []).map((p) => ({
    at: p.ff_gph === null ? p.ago_s! : display.number(p.ff_gph, 'gph'),
    text: `${p.cylinder}${p.cylinder === props.working?.first ? ' first' : p.cylinder === props.working?.last ? ' last' : ''}`,
  })),
)
</script>

<template>
  <section class="lean" aria-label="Mixture working">
    <div class="figures">
      <p v-if="refused" class="stop" role="alert">
        <b>{{ display.sentence(refused) }}</b>
      </p>
      <p v-else class="say">{{ working ? display.sentence(working.say) : 'Pull the mixture back slowly' }}</p>
      <p class="distance">
        <b>{{ display.difference(working?.to_target_f ?? null, 'f') }}</b> {{ display.label('f') }}
        <small>to {{ display.sentence(working?.target.name ?? 'target') }}</small>
      </p>
      <p>
        <b class="mid">{{ display.difference(working?.offset_f ?? null, 'f') }}</b> {{ display.label('f') }}
        {{ where }}
      </p>
      <p>
        CHT <b class="mid">{{ display.figure(working?.head_f ?? chtF, 'f') }}</b> {{ display.label('f') }}
        <span v-if="working?.margin" :class="{ look: working.margin.ratio < 1.3 }">
          margin {{ display.sentence(working.margin.say) }}
        </span>
      </p>
      <p v-if="working?.first">
        {{ order }}
      </p>
      <div class="targets" role="group" aria-label="Target">
        <button
          v-for="t in flight.frame?.lean_targets ?? []"
          :key="t.id"
          type="button"
          :aria-pressed="flight.frame?.lean_target === t.id"
          @click="flight.event('lean_target', { target: t.id })"
        >
          {{ display.sentence(t.title) }}
        </button>
      </div>
      <p v-if="finding" :class="finding.verdict">
        <b>{{ finding.verdict }}</b>: {{ display.sentence(finding.because) }}
        <span class="soft">({{ finding.source }})</span>
      </p>
    </div>
    <div class="plotbox">
      <LiveTrace
        :data="data"
        :lines="lines"
        :marks="marks"
        :band="band"
        :here="here"
        :axis="{ x: along, y: `EGT ${display.label('f')}` }"
        :label="`EGT of each cylinder against ${along}, peaks marked`"
      />
    </div>
    <slot />
  </section>
</template>

<style scoped>
.lean {
  display: grid;
  grid-template-rows: auto minmax(175px, 1fr) auto;
  gap: 8px;
  min-height: 0;
}
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 28px;
  align-items: baseline;
}
.figures > .stop {
  flex: 1 0 100%;
}
.say {
  font-size: var(--mid);
  font-weight: 700;
}
.distance b {
  font-size: var(--big);
  line-height: 1;
}
.mid {
  font-size: var(--mid);
}
.targets {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.lean :slotted(.wanted-lever) {
  max-width: none; /* the mixture under the plot, as wide as it is */
}
.plotbox {
  min-height: 175px;
  position: relative;
}
@media (max-width: 700px) {
  .plotbox {
    height: 240px;
  }
}
</style>

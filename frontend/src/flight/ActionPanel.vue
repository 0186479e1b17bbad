<script setup lang="ts">
import { computed } from 'vue'
import type { Frame } from '@/api/schema'
import { useDisplay } from '@/parts/display'

/** One thing now: what to do, what to expect, what is shown, what comes next. */
const props = defineProps<{
  /** The newest frame. */
  frame: Frame
  /** What it is called where it is not the flight's. */
  label?: string
}>()
const display = useDisplay()
const item = computed(() => props.frame.item)
const WORDS: Record<string, string> = {
  throttle: 'lever',
  mixture: 'lever',
  carb_heat: 'lever',
  pump: 'switch',
  primer_unlocked: 'switch',
}
const isLever = computed(() => item.value?.unit === '' || item.value?.unit === null)
const shown = computed(() => {
  const now = item.value
  if (!now) return ''
  if (now.counts !== null) return String(now.counts)
  if (now.shown === null) return '–'
  if (now.in_a_word) return now.in_a_word
  if (typeof now.shown === 'string') return now.shown
  return isLever.value ? `${Math.round(now.shown * 100)} %` : display.figure(now.shown, now.unit)
})
const expected = computed(() => {
  const now = item.value
  if (now?.in_a_word) return ''
  if (!now || (now.lowest === null && now.highest === null)) return now?.counts !== null ? 'strokes' : ''
  const text = (v: number) => (isLever.value ? `${Math.round(v * 100)} %` : display.figure(v, now.unit))
  if (now.lowest !== null && now.highest !== null) return `${text(now.lowest)} to ${text(now.highest)}`
  return now.lowest !== null ? `at least ${text(now.lowest)}` : `at most ${text(now.highest!)}`
})
const unit = computed(() => (WORDS[item.value?.lever ?? ''] && isLever.value ? '' : display.label(item.value?.unit)))
/** A speed within its band is said to be so: nobody chases a needle. */
const asExpected = computed(() => {
  const now = item.value
  if (!now || now.as_expected === null) return ''
  const speed = props.frame.working.speed
  if (!now.as_expected) return now.confirms_itself ? 'not yet; ticks itself' : 'not yet'
  return speed?.near === false ? speed.say : `✓ ${speed?.say ?? 'as expected'}`
})
const style = computed(
  () => props.frame.lists.find((list) => list.items.some((line) => line.id === item.value?.id))?.style ?? 'read_do',
)
const keeping = computed(() => props.frame.put_backs.filter((p) => p.keeps_open))
const missing = computed(() => props.frame.lists.flatMap((list) => list.missing))
const open = computed(() => props.frame.phases.find((p) => p.id === props.frame.phase)?.open ?? 0)
</script>

<template>
  <section class="action" :class="{ short: frame.panels.working === 'lean' }" :aria-label="label ?? 'Now'">
    <template v-if="frame.paused">
      <h1>Interrupted</h1>
      <p class="response">The place is kept{{ item ? `: ${item.challenge}` : '' }}</p>
      <p class="soft">After a delay the killer items are read again.</p>
    </template>
    <template v-else-if="item">
      <p v-if="item.again" class="look"><b>Again:</b> {{ item.again }}</p>
      <p v-if="item.from_phase && !item.again" class="look"><b>Put off</b> in {{ item.from_phase }}: due now.</p>
      <p v-if="item.note" class="stop"><b>Open again.</b> {{ display.sentence(item.note) }}</p>
      <h1>
        <b v-if="item.engine_name">{{ item.engine_name }}: </b>{{ style === 'two' ? 'Read out: ' : ''
        }}{{ item.challenge }}
      </h1>
      <p class="response">{{ style === 'two' ? 'Answer: ' : '' }}{{ display.sentence(item.response, item.unit) }}</p>
      <p class="soft">
        <b v-if="item.killer">Killer item. </b>{{ display.sentence(item.why) }}
        <template v-if="item.where"> Where: {{ item.where }}.</template>
        <template v-if="item.mistaken_for"> Not: {{ item.mistaken_for }}.</template>
      </p>
      <p v-if="item.watch === 'wind' && frame.air?.face_deg" class="turn">
        Turn to <b>{{ String(frame.air.face_deg).padStart(3, '0') }}</b> to face the wind ({{ frame.air.wind_kt }} kt).
      </p>
      <p v-if="item.only_if" class="look">{{ display.sentence(item.only_if) }}</p>
      <div
        v-if="item.shown !== null || item.lowest !== null || item.highest !== null || item.counts !== null"
        class="figures"
      >
        <p v-if="shown !== '–' || frame.source !== 'manual'">
          <small>Shown</small>
          <b :class="{ within: item.as_expected, look: item.as_expected === false }">{{ shown }}</b>
          <span>{{ unit }} {{ asExpected }}</span>
        </p>
        <p v-if="expected">
          <small>Expect</small>
          <span class="mid">{{ expected }}</span>
        </p>
      </div>
      <p v-if="item.caution" class="caution stop">⚠ {{ item.caution }}</p>
    </template>
    <template v-else-if="keeping.length">
      <h1>Temporary setting still on</h1>
      <p class="response">{{ keeping.map((p) => p.title).join('; ') }}</p>
      <p class="soft">{{ frame.phase_title }} is not complete with it.</p>
    </template>
    <template v-else-if="missing.length">
      <h1>{{ frame.phase_title }} is not complete</h1>
      <p class="response">Open: {{ missing.join(', ') }}</p>
      <p v-if="frame.step.does !== 'stop_stands'" class="soft">
        Take an item up from the list, or go on: it stays open, and what was put off comes back.
      </p>
    </template>
    <template v-else>
      <h1>{{ frame.phase_title }} is done</h1>
      <p v-if="!frame.run_up" class="response">
        {{ frame.next_phase ? `Next: ${frame.next_phase.title}` : 'End the flight and look at the record.' }}
      </p>
    </template>
    <p v-if="frame.half_checks.length" class="look">
      <b>Half done:</b> {{ frame.half_checks.join(', ') }} is incomplete.
    </p>
    <span class="sr">{{ open }} open</span>
  </section>
</template>

<style scoped>
h1 {
  font-size: var(--mid);
  line-height: 1.15;
  font-weight: 400;
}
.response {
  font-size: var(--mid);
  font-weight: 700;
  line-height: 1.15;
}
/* while the mixture moves the plot is the main thing: what to do is one line, and why it is so stays in the list */
.short {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  align-items: baseline;
}
.short .response {
  font-size: inherit;
}
.short > .soft {
  display: none;
}
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 0 40px;
  align-items: flex-end;
  margin-top: 4px;
}
.figures p {
  display: grid;
}
.figures b {
  font-size: var(--big);
  line-height: 1;
  min-width: 3ch;
  /* Four figures in a narrow window take a line of their own rather than being cut. */
  white-space: nowrap;
}
.mid {
  font-size: var(--mid);
}
.turn {
  font-size: var(--mid);
}
.caution {
  font-weight: 700;
}
.sr {
  position: absolute;
  clip-path: inset(50%);
}
</style>

<script setup lang="ts">
import type { PowerChoice, PowerNow } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** Percent of rated power now, the clock of a time-limited rating, and a change of power as steps in their order. */
defineProps<{
  /** The power as the core sees it. */
  power: PowerNow
  /** The powers that may be asked for here. */
  choices: PowerChoice[]
  /** Nothing is asked for while the mixture is being set. */
  bare?: boolean
}>()
const flight = useFlight()
const display = useDisplay()
const pressure = (inhg: number) => `${display.figure(inhg, 'inhg')} ${display.label('inhg')}`
const clock = (s: number) => `${Math.floor(Math.max(s, 0) / 60)}:${String(Math.max(s, 0) % 60).padStart(2, '0')}`
const want = (c: PowerChoice) =>
  flight.event('power_wanted', { id: c.id, title: c.title, rpm: c.rpm, map_inhg: c.map_inhg })
const said = (c: PowerChoice) =>
  [c.rpm && `${c.rpm.toLocaleString('en')} RPM`, c.map_inhg && pressure(c.map_inhg)].filter(Boolean).join(', ')
</script>

<template>
  <section class="power" aria-label="Power">
    <p class="line">
      <template v-if="power.engines.length > 1">
        <span v-for="one in power.engines" :key="one.name"
          >{{ one.name }} <b class="pct">{{ one.pct === null ? '–' : `${Math.round(one.pct)} %` }}</b></span
        >
      </template>
      <b v-else-if="power.best_pct !== null" class="pct">{{ Math.round(power.best_pct) }} %</b>
      <span
        v-if="power.engines.length === 1 || power.disagree || power.best_pct === null"
        :class="{ look: power.disagree }"
        >{{ display.sentence(power.say) }}</span
      >
      <span v-if="power.limit_inhg !== null">Limit today {{ pressure(power.limit_inhg) }}.</span>
      <span v-if="power.mixture" :class="{ look: power.mixture.wrong }">{{ display.sentence(power.mixture.say) }}</span>
      <span v-if="power.clock" :class="power.clock.left_s <= 0 ? 'stop' : 'look'">
        {{ power.clock.name }} power: {{ clock(power.clock.left_s) }} left
      </span>
    </p>
    <div v-if="power.wanted && !bare" class="line wanted">
      <b>{{ power.wanted.title }}:</b>
      <span v-if="power.wanted.there">✓ {{ display.sentence(power.wanted.say) }}</span>
      <ol v-else>
        <li v-for="(step, k) in power.wanted.steps" :key="step" :class="{ next: k === 0 }">
          {{ display.sentence(step) }}
        </li>
      </ol>
      <button type="button" class="plain" @click="flight.event('power_wanted', {})">Done with it</button>
    </div>
    <div v-else-if="choices.length && !bare" class="line" role="group" aria-label="Set power">
      <button v-for="c in choices" :key="c.id" type="button" @click="want(c)">
        {{ c.title }} <small>{{ said(c) }}</small>
      </button>
    </div>
  </section>
</template>

<style scoped>
.power {
  display: grid;
  gap: 6px;
}
.line {
  display: flex;
  gap: 6px 14px;
  align-items: baseline;
  flex-wrap: wrap;
}
.pct {
  font-size: var(--mid);
}
ol {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  margin: 0;
  padding-left: 22px;
}
.next {
  font-weight: 700;
  font-size: var(--mid);
}
small {
  font-weight: 400;
}
</style>

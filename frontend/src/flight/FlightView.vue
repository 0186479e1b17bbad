<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '@/api/client'
import { useFlightKeys } from './useFlightKeys'
import { useMainStep } from './useMainStep'
import { usePanels } from './usePanels'
import { useTones } from './useTones'
import { useWakeLock } from './useWakeLock'
import AirLines from './AirLines.vue'
import ActionPanel from './ActionPanel.vue'
import BurnOff from './BurnOff.vue'
import CheckWorking from './CheckWorking.vue'
import BriefingLines from './BriefingLines.vue'
import DayWorking from './DayWorking.vue'
import DrillPanel from '@/practice/DrillPanel.vue'
import EngineNoise from '@/practice/EngineNoise.vue'
import GamepadLine from '@/practice/GamepadLine.vue'
import EngineLevers from '@/practice/EngineLevers.vue'
import WantedLever from '@/practice/WantedLever.vue'
import FuelPanel from './FuelPanel.vue'
import EarPanel from './EarPanel.vue'
import EgtTable from './EgtTable.vue'
import FlightCards from './FlightCards.vue'
import FlowPanel from './FlowPanel.vue'
import HandsFull from './HandsFull.vue'
import InstrumentColumn from './InstrumentColumn.vue'
import ItemTools from './ItemTools.vue'
import ListPanel from './ListPanel.vue'
import ManualEntry from './ManualEntry.vue'
import MemoryList from './MemoryList.vue'
import NoticeStrip from './NoticeStrip.vue'
import PowerLine from './PowerLine.vue'
import PowerLoss from './PowerLoss.vue'
import PutBackStrip from './PutBackStrip.vue'
import ServerLines from './ServerLines.vue'
import RunUpSummary from './RunUpSummary.vue'
import SpokenNews from './SpokenNews.vue'
import StartAdviceLines from './StartAdviceLines.vue'
import StartClocks from './StartClocks.vue'
import TypedNeedles from './TypedNeedles.vue'
import TopBar from './TopBar.vue'
import WarmUpLines from './WarmUpLines.vue'
import WeatherWorking from './WeatherWorking.vue'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

const flight = useFlight()
const display = useDisplay()
const router = useRouter()
const tones = useTones()
useWakeLock()
const speeds = ref([1, 4, 10])
const card = ref<'keys' | 'emergency' | 'briefing' | 'cylinders' | 'where'>()
const cards = useTemplateRef<InstanceType<typeof FlightCards>>('cards')
const isTyping = ref(false)
const problem = ref('')
const levers = useTemplateRef<InstanceType<typeof EngineLevers>>('levers')
const pad = useTemplateRef<InstanceType<typeof ManualEntry>>('pad')
const frame = computed(() => flight.frame)
const item = computed(() => frame.value?.item ?? null)
const { list, does, word, forward } = useMainStep()
const { shows, large } = usePanels()
/** Figures are typed where a trace would stand, or where there is none. */
const hasPad = computed(() => !!item.value?.manual && (isTyping.value || (!!shows.value?.pad && !shows.value.working)))
const padAsks = computed(() => {
  const one = item.value
  return one?.manual && hasPad.value ? { check: one.manual, fields: one.fields, engine: one.engine } : null
})
const isByHand = computed(() => frame.value?.source === 'manual')

onMounted(async () => {
  try {
    await flight.open()
    speeds.value = (await answer(api.GET('/api/settings'))).speeds
    if (!flight.frame) await router.replace('/')
  } catch (error) {
    problem.value = (error as Error).message
  }
})
onBeforeUnmount(() => {
  flight.close()
  display.tachometer = null
  display.aircraft = null
})
watch(
  () => frame.value?.tachometer ?? null,
  (now) => (display.tachometer = now),
  { immediate: true },
)
watch(
  () => frame.value?.units ?? null,
  (now) => (display.aircraft = now),
  { immediate: true },
)
/** A burn-off that is asked for comes below what asks for it; under way it comes first. */
const burn = computed(() => (shows.value?.burn_off && !large.value ? frame.value?.burn_off : null))
/** The simulated engine's levers can be moved. */
const hasLevers = computed(() => !!frame.value?.feed && !frame.value.feed.no_levers)
watch(item, (now, before) => now?.id !== before?.id && (isTyping.value = false))
watch(
  () => item.value?.finding?.event,
  (now, before) => now && now !== before && tones.done(),
)
watch(
  () => frame.value?.put_backs.some((p) => p.overdue),
  (overdue) => overdue && tones.alarm(),
)

const mainMark = computed(() =>
  flight.oldSince === null && (item.value?.as_expected || item.value?.finding?.verdict === 'within') ? '✓ ' : '',
)

/** A finger or a mouse leaves the focus where it is: only who walks by keys moves it. */
const keepFocus = (event: MouseEvent) => (event.target as HTMLElement).closest('button') && event.preventDefault()

/** The main button; a check that is typed is made again on the pad. */
async function go() {
  if (pad.value?.isHalf()) return void pad.value.take() // a figure that was begun is not dropped
  if (does.value === 'stopped' && item.value?.manual && frame.value?.source === 'manual') isTyping.value = true
  await forward()
}

useFlightKeys({ go, card, isTyping, pad, levers })
</script>

<template>
  <main
    v-if="frame"
    class="flight"
    :data-handed-over="frame.handed_over_ms"
    :data-seq="frame.last_seq"
    :class="[display.hand, { manual: frame.source === 'manual', typing: hasPad, old: flight.oldSince !== null }]"
    @mousedown="keepFocus"
  >
    <SpokenNews :frame="frame" />
    <TopBar :frame="frame" :speeds="speeds" @keys="card = 'keys'" @emergency="card = 'emergency'" />
    <div class="now">
      <ServerLines :frame="frame" />
      <DrillPanel v-if="frame.drill" :id="frame.flight" :drill="frame.drill" :registration="frame.registration" />
      <PowerLoss v-if="frame.power_loss" :loss="frame.power_loss" />
      <NoticeStrip :frame="frame" @briefing="card = 'briefing'" />
      <HandsFull v-if="large" :start="frame.start" />
      <FlowPanel v-else-if="does === 'flow' && list" :list="list" />
      <MemoryList v-else-if="does === 'by_heart' && list" :list="list" />
      <ActionPanel v-else :frame="frame" />
      <template v-if="!large && item && (does === 'item' || does === 'answer' || does === 'stopped')">
        <WantedLever
          v-if="hasLevers && item.lever && shows?.working !== 'lean'"
          :wanted="item.lever"
          :levers="frame.levers"
        />
        <DayWorking v-if="item.watch === 'day'" :facts="frame.facts" :asked="frame.asked_facts" />
        <WeatherWorking v-if="item.watch === 'weather'" :air="frame.air" />
        <BriefingLines v-if="item.watch === 'briefing'" :lines="frame.briefing.lines" />
        <StartAdviceLines v-if="frame.advice" :item="item" :advice="frame.advice" />
        <ItemTools
          :item="item"
          :stopped="does === 'stopped'"
          :has-photo="!!cards?.spot"
          @where="card = card === 'where' ? undefined : 'where'"
        />
      </template>
      <BurnOff v-if="burn?.under_way" :burn="burn" />
      <StartClocks v-if="shows?.starting" :frame="frame" :fastest="speeds.at(-1) ?? 1" />
      <WarmUpLines :frame="frame" />
      <AirLines
        v-if="!large && (frame.working.lines?.length || frame.working.take_off)"
        :lines="frame.working.lines ?? []"
        :take-off="frame.working.take_off ?? null"
      />
      <PowerLine
        v-if="frame.power && shows?.power && !large"
        :power="frame.power"
        :choices="frame.working.choices ?? []"
        :bare="item?.watch === 'lean' || !!frame.working.take_off"
      />
      <p v-if="frame.rough && !large" class="look"><b>The engine runs rough</b></p>
      <ManualEntry v-if="padAsks && !isByHand" :key="item!.id" ref="pad" v-bind="padAsks" @closed="isTyping = false" />
      <CheckWorking :frame="frame" :has-levers="hasLevers" :bare="!!burn" />
      <BurnOff v-if="burn && !burn.under_way" :burn="burn" />
      <RunUpSummary
        v-if="!item && frame.run_up && !large"
        :card="frame.run_up"
        :on-in-spite="does === 'stop_stands' ? frame.next_phase : null"
      />
      <button v-if="item?.manual && !hasPad" type="button" class="plain typeit" @click="isTyping = true">
        Type the figures instead
      </button>
      <FuelPanel v-if="frame.fuel && shows?.fuel && !large" :fuel="frame.fuel" />
      <ListPanel
        v-if="
          list && !shows?.card && !shows?.working && !shows?.tall && (!hasPad || frame.source === 'manual') && !large
        "
        :list="list"
        :current="item?.id ?? null"
        :shortens="shows?.shortens"
      />
    </div>
    <div class="side">
      <InstrumentColumn
        v-if="frame.source === 'bench'"
        :instruments="frame.instruments"
        :stale="frame.stale || flight.oldSince !== null"
        :has-cylinders="frame.cylinders.length > 0"
        @cylinders="card = card === 'cylinders' ? undefined : 'cylinders'"
      />
      <p v-if="frame.feed?.says" :class="frame.stale ? 'stop' : 'soft'" role="status">
        <b>{{ frame.stale && frame.feed.says_old ? frame.feed.says_old : frame.feed.says }}</b>
      </p>
      <EarPanel v-if="shows?.ear" :ear="frame.ear ?? null" />
      <ManualEntry v-if="padAsks && isByHand" :key="item!.id" ref="pad" v-bind="padAsks" @closed="isTyping = false" />
      <TypedNeedles v-else-if="isByHand" :instruments="frame.instruments" />
      <EgtTable v-if="frame.egt_table" :table="frame.egt_table" />
      <EngineLevers
        v-if="hasLevers"
        ref="levers"
        :levers="frame.levers"
        :wanted="item?.lever ?? null"
        :engine="item?.engine || frame.start.engine"
      />
      <template v-if="hasLevers">
        <EngineNoise :sounds="frame.sound" />
        <GamepadLine />
      </template>
      <p class="soft fine">
        Not certified equipment. Your flight manual, local rules, an instructor and a mechanic decide. Eyes outside.
      </p>
    </div>
    <div class="foot">
      <PutBackStrip :put-backs="frame.put_backs" :pairs="frame.pairs" :closing="!item" />
      <div class="thumb">
        <button type="button" aria-label="Take back the last step" @click="flight.undo()">↶ Back</button>
        <button
          type="button"
          class="main"
          :class="{ doubtful: frame.step.doubtful, small: frame.step.small }"
          :aria-disabled="does === 'put_back' || (does === 'stop_stands' && !frame.step.to)"
          @click="go"
        >
          {{ pad?.isHalf() ? 'Take the figure' : `${mainMark}${word}` }}
        </button>
      </div>
    </div>
    <FlightCards ref="cards" v-model="card" :frame="frame" />
  </main>
  <p v-else class="page">{{ problem || 'Looking for the flight …' }}</p>
</template>

<style scoped src="./flight.css"></style>

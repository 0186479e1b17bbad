<script setup lang="ts">
import { computed, ref } from 'vue'
import type { FuelNow } from '@/api/schema'
import { useDisplay } from '@/parts/display'
import { useFlight } from './flight'

/** Tanks: which one feeds, what is left, when to change, and the watch after. Asks what was on board before it says left. */
const props = defineProps<{
  /** The tanks as the core sees them. */
  fuel: FuelNow
}>()
const flight = useFlight()
const display = useDisplay()
const typed = ref<Record<string, string>>({})
const due = computed(() => {
  const s = props.fuel.due_s
  if (s === null) return ''
  const to = props.fuel.next ? ` to ${props.fuel.next}` : ''
  return s > 0 ? `Change${to} in ${Math.ceil(s / 60)} min` : `Change${to} now: pump on first`
})
function say(tank: string) {
  const amount = Number(typed.value[tank])
  if (!typed.value[tank] || Number.isNaN(amount)) return
  void flight.event('fuel_on_board', { tank, gal: display.toCore(amount, 'gal') })
}
const select = (tank: string) => flight.event('tank_selected', { tank })
</script>

<template>
  <section class="fuel" aria-label="Fuel">
    <p v-if="fuel.watch" :class="fuel.watch.low ? 'stop' : 'look'">
      <b>{{ display.sentence(fuel.watch.say) }}</b> {{ fuel.watch.left_s }} s
    </p>
    <p v-else-if="due" :class="{ look: (fuel.due_s ?? 1) <= 0 }">{{ due }}</p>
    <p v-if="fuel.balance" class="look">{{ display.sentence(fuel.balance) }}</p>
    <div class="tanks">
      <div v-for="row in fuel.tanks" :key="row.tank">
        <button type="button" :aria-pressed="row.feeds" @click="select(row.tank)">
          {{ row.tank }}{{ row.feeds ? ' feeds' : '' }}
        </button>
        <span v-if="row.remaining_gal !== null">
          <b>{{ display.figure(row.remaining_gal, 'gal') }}</b> {{ display.label('gal') }} left
        </span>
        <label v-else>
          On board
          <input v-model="typed[row.tank]" inputmode="decimal" @change="say(row.tank)" />
          {{ display.label('gal') }}
        </label>
      </div>
    </div>
    <p v-if="fuel.minutes_left !== null" :class="{ stop: fuel.below_reserve }">
      About {{ Math.floor(fuel.minutes_left / 60) }}:{{ String(fuel.minutes_left % 60).padStart(2, '0') }} at this
      flow{{ fuel.below_reserve ? `: below the reserve of ${fuel.reserve_min} min` : '' }}
    </p>
  </section>
</template>

<style scoped>
.fuel {
  display: grid;
  gap: 6px;
}
.tanks {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 22px;
}
.tanks > div {
  display: flex;
  gap: 10px;
  align-items: center;
}
input {
  width: 90px;
  min-height: 48px;
  font: inherit;
  font-size: 22px;
  padding: 0 8px;
}
</style>

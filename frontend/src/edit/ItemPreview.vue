<script setup lang="ts">
import { computed } from 'vue'
import type { Frame, Option } from '@/api/schema'
import ActionPanel from '@/flight/ActionPanel.vue'
import type { JsonObject } from './json'

/** An item as it will look in flight, on paper and at night. */
const props = defineProps<{
  /** The item as it is written. */
  item: JsonObject
  /** Its list. */
  list: JsonObject
  /** The limits of the aircraft, by name. */
  limits: JsonObject
  /** The signals that an item may read, with their units. */
  signals: Option[]
}>()
const text = (name: string) => (typeof props.item[name] === 'string' ? props.item[name] : null)
function bound(own: string, named: string): number | null {
  const reading = (props.item.reading ?? {}) as JsonObject
  if (typeof reading[own] === 'number') return reading[own]
  const limit = props.limits[String(reading[named] ?? '')] as JsonObject | undefined
  return typeof limit?.value === 'number' ? limit.value : null
}
/** The part of a frame that the panel of this moment reads. */
const frame = computed(() => {
  const reading = (props.item.reading ?? {}) as JsonObject
  const signal = String(reading.signal ?? '')
  const item = {
    id: text('id') ?? '',
    challenge: text('challenge') ?? '',
    response: text('response') ?? '',
    why: text('why') ?? '',
    caution: text('caution'),
    where: text('where'),
    mistaken_for: text('mistaken_for'),
    killer: props.item.killer === true,
    lever: text('lever'),
    watch: text('watch'),
    unit: signal ? (props.signals.find((one) => one.id === signal)?.unit ?? '') : null,
    shown: null,
    lowest: bound('min', 'min_limit'),
    highest: bound('max', 'max_limit'),
    as_expected: null,
    confirms_itself: props.item.seen_is_enough === true,
    counts: null,
    again: null,
    from_phase: null,
    note: null,
    engine_name: null,
    only_if: null,
  }
  const style = props.list.style ?? 'read_do'
  return {
    paused: false,
    item,
    lists: [{ style, items: [{ id: item.id }], missing: [] }],
    working: {},
    panels: { working: null },
    put_backs: [],
    phases: [],
    half_checks: [],
    source: 'manual',
    air: null,
    phase: '',
    phase_title: '',
  } as unknown as Frame
})
</script>

<template>
  <div class="looks">
    <div class="look-day"><ActionPanel :frame="frame" label="By day" /></div>
    <div class="look-night"><ActionPanel :frame="frame" label="By night" /></div>
  </div>
</template>

<style scoped>
.looks {
  display: grid;
  gap: 8px;
}
.looks > div {
  background: var(--paper);
  color: var(--ink);
  border: 2px solid var(--line);
  border-radius: 10px;
  padding: 10px 14px;
  --mid: 22px;
  --big: 32px;
  overflow-wrap: anywhere;
}
</style>

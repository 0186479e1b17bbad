<script setup lang="ts">
import { computed } from 'vue'
import type { EarNow } from '@/api/schema'
import { prefixOf } from '@/practice/owning'
import { useDisplay } from '@/parts/display'
import { useEar } from './ear'
import { useFlight } from './flight'

/** RPM by the tablet's microphone, for an engine that no wire tells: opened by a tap, held to a needle that was read once. */
const props = defineProps<{
  /** What is heard, or null where nobody listens. */
  ear: EarNow | null
}>()
const flight = useFlight()
const display = useDisplay()
const { isOn, problem, filters, microphones, chosen, start, stop, choose } = useEar()
const rpm = computed(() => display.figure(props.ear?.tap_rpm ?? null, 'rpm'))
const needle = computed(() => `${prefixOf(flight.frame?.item?.engine || 1)}rpm`)
const tap = () => flight.event('needle_read', { needle: needle.value, value: props.ear!.tap_rpm })
</script>

<template>
  <section class="ear" aria-label="By ear">
    <template v-if="isOn">
      <p class="says" :class="{ heard: ear?.rpm != null }" role="status">{{ ear?.says ?? 'Listening …' }}</p>
      <div
        class="level"
        role="meter"
        aria-label="Loudness"
        aria-valuemin="0"
        aria-valuemax="100"
        :aria-valuenow="ear?.level_pct ?? 0"
      >
        <svg viewBox="0 0 100 4" preserveAspectRatio="none"><rect :width="ear?.level_pct ?? 0" height="4" /></svg>
      </div>
      <button v-if="ear && ear.tap_rpm" type="button" @click="tap">The needle shows {{ rpm }}</button>
      <button type="button" class="plain" @click="stop">Stop listening</button>
      <el-select
        v-if="microphones.length > 1 && ear?.rpm == null"
        :model-value="chosen || microphones[0]!.deviceId"
        aria-label="Microphone"
        size="large"
        @change="choose"
      >
        <el-option
          v-for="(one, index) in microphones"
          :key="one.deviceId"
          :value="one.deviceId"
          :label="one.label || `Microphone ${index + 1}`"
        />
      </el-select>
      <p v-if="filters" class="look">This device filters the sound ({{ filters }}): the ear may miss what you hear.</p>
    </template>
    <button v-else type="button" @click="start">Listen to the engine</button>
    <p v-if="problem" class="look" role="alert">
      <b>{{ problem }}</b>
    </p>
  </section>
</template>

<style scoped>
.ear {
  display: grid;
  gap: 6px;
  grid-template-columns: 1fr 1fr;
}
.ear > p,
.level,
.ear > button:only-of-type {
  grid-column: 1 / -1;
}
.says {
  font-size: 18px;
  margin: 0;
}
.says.heard {
  font-size: 26px;
  font-weight: 700;
  font-variant-numeric: tabular-nums;
}
.ear :deep(.el-select) {
  grid-column: 1 / -1;
}
.level svg {
  display: block;
  width: 100%;
  height: 8px;
  background: var(--line);
}
.level rect {
  fill: var(--ink);
}
</style>

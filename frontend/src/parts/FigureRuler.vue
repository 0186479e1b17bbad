<script setup lang="ts">
import { computed } from 'vue'
import type { ShownFigure } from '@/api/schema'
import { useDisplay } from './display'

/** One figure on a ruler from nothing past its limit: a mark where it stands, a stroke at the limit, what it may be off by. */
const props = defineProps<{
  /** The figure, with a limit. */
  figure: ShownFigure
}>()
const display = useDisplay()
const limit = computed(() => props.figure.most ?? props.figure.least ?? 0)
const end = computed(() => Math.max(limit.value * 1.4, props.figure.value * 1.1, 1))
const at = (value: number) => `${Math.min(Math.max(value / end.value, 0), 1) * 100}%`
const off = computed(() => props.figure.plus_minus ?? 0)
const words = computed(() => (props.figure.most === null ? 'at least' : 'at most'))
</script>

<template>
  <div class="ruler">
    <p>
      <b>{{ display.figure(figure.value, figure.unit) }}</b>
      <template v-if="off"> ± {{ display.difference(off, figure.unit) }}</template>
      {{ display.label(figure.unit) }} <span>{{ figure.title }}</span>
    </p>
    <div class="scale" aria-hidden="true">
      <i class="allowed" :style="figure.most === null ? { left: at(limit), right: '0' } : { width: at(limit) }" />
      <i class="doubt" :style="{ left: at(figure.value - off), right: `calc(100% - ${at(figure.value + off)})` }" />
      <i class="mark" :style="{ left: at(figure.value) }" />
      <i class="limit" :style="{ left: at(limit) }" />
    </div>
    <small>{{ words }} {{ display.figure(limit, figure.unit) }}</small>
  </div>
</template>

<style scoped>
.ruler {
  display: grid;
  grid-template-columns: minmax(190px, auto) minmax(120px, 260px) auto;
  gap: 0 14px;
  align-items: center;
}
b {
  font-size: var(--mid);
}
.scale {
  position: relative;
  height: 22px;
  border-bottom: 2px solid var(--soft);
}
i {
  position: absolute;
  bottom: 0;
}
.allowed {
  height: 8px;
  background: var(--line);
}
.doubt {
  height: 4px;
  background: var(--soft);
}
.mark {
  width: 0;
  margin-left: -7px;
  border: 7px solid transparent;
  border-top: 14px solid var(--ink);
  border-bottom: 0;
}
.limit {
  width: 3px;
  margin-left: -1px;
  height: 22px;
  background: var(--ink);
}
@media (max-width: 700px) {
  .ruler {
    grid-template-columns: 1fr auto;
  }
  .ruler p {
    grid-column: 1 / -1;
  }
}
</style>

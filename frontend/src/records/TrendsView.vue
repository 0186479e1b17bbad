<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { get } from '@/api/client'
import type { TrendRow, TrendsPage } from '@/api/schema'
import LiveTrace from '@/parts/LiveTrace.vue'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'
import { useDisplay } from '@/parts/display'

/** Each figure of an aircraft over its flights, with its limit, and a sentence for the mechanic where it is going there. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const trends = ref<TrendsPage>()
const problem = ref('')
onMounted(() => {
  get<TrendsPage>(`/api/aircraft/${props.id}/trends`)
    .then((kept) => (trends.value = kept))
    .catch((error) => (problem.value = error.message))
})
const data = (f: TrendRow) => [
  f.points.map((_, n) => n + 1),
  f.points.map((p) => display.number(p.value, f.unit)),
  f.points.map(() => (f.limit === null ? null : display.number(f.limit, f.unit))),
]
</script>

<template>
  <main class="page">
    <header>
      <RouterLink :to="`/aircraft/${id}`">‹ {{ trends?.aircraft.registration ?? 'Aircraft' }}</RouterLink>
      <b>Trends</b>
      <nav><DisplaySwitches /></nav>
    </header>
    <p v-if="problem" class="look" role="alert">{{ problem }}</p>
    <p v-if="trends && !trends.figures.length" class="sentence">No flight with a check is recorded yet.</p>
    <p v-for="h in trends?.health" :key="h.say" class="look">
      <b>{{ h.say }}</b>
    </p>
    <div v-if="trends" class="figures">
      <section v-for="f in trends.figures" :key="f.id" :aria-label="f.title">
        <h2>{{ f.title }}</h2>
        <p :class="{ look: f.trend.message }">{{ f.trend.summary }}</p>
        <div class="plot">
          <LiveTrace
            :data="data(f)"
            :lines="[
              { label: f.title, scale: 'y', width: 3 },
              { label: 'Limit', scale: 'y', dash: [8, 6] },
            ]"
            :axis="{ x: 'Flight', y: display.label(f.unit), counted: true }"
            :label="`${f.title} over ${f.points.length} flights; dashed its limit`"
          />
        </div>
      </section>
    </div>
    <p class="soft">Dashed: the limit. Drops are brought to the type’s run-up RPM. A mechanic decides.</p>
  </main>
</template>

<style scoped>
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 12px 24px;
}
h2 {
  font-size: 22px;
}
.plot {
  position: relative;
  height: 200px;
}
</style>

<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { get } from '@/api/client'
import type { AircraftLine, Method } from '@/api/schema'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'
import MethodText from '@/records/MethodText.vue'
import { useDisplay } from '@/parts/display'

/** How each verdict is made, with the limits of one aircraft and where they come from. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const route = useRoute()
const display = useDisplay()
const aircraft = ref<AircraftLine>()
const methods = ref<Method[]>([])
const problem = ref('')
onMounted(async () => {
  try {
    const kept = await get<{ aircraft: AircraftLine; methods: Method[] }>(`/api/aircraft/${props.id}/methods`)
    aircraft.value = kept.aircraft
    methods.value = kept.methods
    await nextTick()
    if (route.hash) document.getElementById(route.hash.slice(1))?.scrollIntoView()
  } catch (error) {
    problem.value = (error as Error).message
  }
})
</script>

<template>
  <main class="page">
    <header>
      <RouterLink :to="`/aircraft/${id}`">‹ {{ aircraft?.registration ?? 'Aircraft' }}</RouterLink>
      <b>How verdicts are made</b>
      <nav><DisplaySwitches /></nav>
    </header>
    <p v-if="problem" class="look" role="alert">{{ problem }}</p>
    <p v-if="aircraft" class="sentence">
      {{ methods.length }} kinds of check; live and from a record they are judged alike. Within limits is no permission
      to fly.
    </p>
    <section v-for="m in methods" :id="m.kind" :key="m.kind" :aria-label="m.title">
      <h2>{{ m.title }}</h2>
      <MethodText :method="m" />
      <table v-if="m.limits.length">
        <tbody>
          <tr v-for="limit in m.limits" :key="limit.name">
            <td>{{ limit.title }}</td>
            <td class="figure">
              <b>{{ display.withUnit(limit.value, limit.unit) }}</b>
            </td>
            <td class="soft">{{ limit.source }}{{ limit.note ? `: ${limit.note}` : '' }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <p class="soft">The manual of your aircraft, an instructor and a licensed mechanic decide.</p>
  </main>
</template>

<style scoped>
h2 {
  font-size: 22px;
  margin-top: 22px;
}
table {
  border-collapse: collapse;
  margin-top: 6px;
}
.figure {
  text-align: right;
  white-space: nowrap;
}
td {
  padding: 2px 18px 2px 0;
  vertical-align: top;
}
</style>

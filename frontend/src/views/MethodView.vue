<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { get } from '@/api/client'
import type { Aircraft, Method } from '@/api/types'
import DisplaySwitches from '@/panels/DisplaySwitches.vue'
import MethodText from '@/panels/MethodText.vue'

/** How each verdict is made, with the limits of one aircraft and where they come from. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const route = useRoute()
const aircraft = ref<Aircraft>()
const methods = ref<Method[]>([])
const problem = ref('')
onMounted(async () => {
  try {
    const kept = await get<{ aircraft: Aircraft; methods: Method[] }>(`/api/aircraft/${props.id}/methods`)
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
      <p v-if="m.limits.length" class="limits">
        <span v-for="limit in m.limits" :key="limit.name"
          >{{ limit.title }} <b>{{ limit.value }}</b> {{ limit.unit }}
          <small class="soft">{{ limit.source }}{{ limit.note ? `: ${limit.note}` : '' }}</small></span
        >
      </p>
    </section>
    <p class="soft">The manual of your aircraft, an instructor and a licensed mechanic decide.</p>
  </main>
</template>

<style scoped>
h2 {
  font-size: 22px;
  margin-top: 22px;
}
.limits {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 24px;
  margin-top: 6px;
}
</style>

<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import PageContents from '@/parts/PageContents.vue'
import PageFrame from '@/parts/PageFrame.vue'
import MethodText from '@/parts/MethodText.vue'
import type { Method } from '@/api/schema'
import { speaksOf } from '@/parts/search'
import { useDisplay } from '@/parts/display'

/** How each verdict is made, with the limits of one aircraft and where they come from. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const route = useRoute()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const { answer: page, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}/methods', { params })))
const wanted = ref('')
/** Those that speak of what is looked for, in their title, their words or their limits. */
const shown = computed(() => {
  const texts = (m: Method) => [
    m.title,
    m.measured,
    ...m.rules.flatMap((rule) => Object.values(rule)),
    ...m.limits.flatMap((limit) => [limit.title, limit.note]),
  ]
  return (page.value?.methods ?? []).filter((m) => speaksOf(wanted.value, display.sentence(texts(m).join(' '))))
})
const parts = computed(() => shown.value.map((m) => ({ id: m.kind, title: m.title })))
watch(page, async () => {
  await nextTick()
  if (route.hash) document.getElementById(route.hash.slice(1))?.scrollIntoView()
})
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft?.registration }"
    :gauges="page?.aircraft ?? undefined"
    title="How verdicts are made"
    :problem="problem"
    :waiting="!page"
  >
    <p v-if="page" class="sentence">
      {{ page.methods.length }} kinds of check; live and from a record they are judged alike. Within limits is no
      permission to fly.
    </p>
    <PageContents v-if="page" v-model="wanted" :parts="parts" finds="Find a check, a word or a limit" />
    <section v-for="m in shown" :id="m.kind" :key="m.kind" :aria-label="m.title">
      <h2>{{ m.title }}</h2>
      <MethodText :method="m" />
      <table v-if="m.limits.length">
        <tbody>
          <tr v-for="limit in m.limits" :key="limit.name">
            <td>{{ limit.title }}</td>
            <td class="figure">
              <b>{{ display.withUnit(limit.value, limit.unit) }}</b>
            </td>
            <td class="soft">{{ limit.source }}{{ limit.note ? `: ${display.sentence(limit.note)}` : '' }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <p class="soft">The manual of your aircraft, an instructor and a licensed mechanic decide.</p>
  </PageFrame>
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

<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, newId } from '@/api/client'
import { useAnswer, useSending } from '@/api/useAnswer'
import { useDisplay } from '@/parts/display'
import PageFrame from '@/parts/PageFrame.vue'

/** After a drill: the one thing to do differently, the score by skill, and one timeline of what was true, done, shown and right. */
const props = defineProps<{
  /** The flight. */
  id: string
}>()
const router = useRouter()
const display = useDisplay()
const pilot = useLocalStorage('pilot', '')
const params = { path: { flight_id: props.id } }
const { answer: told, problem } = useAnswer(() => answer(api.GET('/api/flights/{flight_id}/debrief', { params })))
const { answer: known } = useAnswer(() => answer(api.GET('/api/aircraft')))
const gauges = computed(() => known.value?.aircraft.find((one) => one.id === told.value?.aircraft))
const WORDS = { true: 'Was', done: 'You', shown: 'Judged', method: 'Rather', note: 'Note' } as const
const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`
const lines = computed(() => told.value?.lines ?? [])
const body = () => ({ id: newId(), pilot: pilot.value.trim() || 'Pilot' })
const {
  problem: notBegun,
  isSending,
  go: fly,
} = useSending(async (from: number | null) => {
  if (from === null) {
    const drill = { path: { drill_id: told.value!.drill } }
    await answer(api.POST('/api/drills/{drill_id}/flights', { params: drill, body: body() }))
  } else {
    await answer(api.POST('/api/flights/{flight_id}/again', { params, body: { ...body(), from_s: from } }))
  }
  await router.push('/flight')
})
</script>

<template>
  <PageFrame :title="told?.title ?? 'Debrief'" :gauges="gauges" :problem="problem || notBegun" :waiting="!told">
    <template v-if="told">
      <p class="first" :class="told.is_well_flown ? 'within' : ''">{{ display.sentence(told.first) }}</p>
      <p v-if="told.cause">
        It was: <b>{{ told.cause }}</b>
      </p>
      <p v-for="one in told.noticed" :key="one.what">
        {{ one.what }}: you saw it after <b>{{ Math.max(one.after_s, 0) }} s</b>.
      </p>
      <p class="ways">
        <button
          v-if="told.again_s !== null"
          type="button"
          class="main"
          :disabled="isSending"
          @click="fly(told.again_s)"
        >
          Fly this moment again
        </button>
        <button type="button" :disabled="isSending" @click="fly(null)">The whole drill again</button>
        <RouterLink class="key out" to="/practice">Other drills</RouterLink>
        <RouterLink class="key out" :to="`/records/${id}`">Its record</RouterLink>
        <RouterLink v-if="told.check" class="key out" :to="`/aircraft/${told.aircraft}/method#${told.check}`">
          How it is judged: {{ told.check_title }}
        </RouterLink>
      </p>
      <section aria-labelledby="score">
        <h2 id="score">Score: {{ told.total }} of 100</h2>
        <dl>
          <template v-for="one in told.skills" :key="one.id">
            <dt>{{ one.title }}</dt>
            <dd><meter min="0" max="100" :value="one.score" :aria-label="one.title"></meter> {{ one.score }}</dd>
          </template>
        </dl>
      </section>
      <section aria-labelledby="line">
        <h2 id="line">What happened</h2>
        <ol>
          <li v-for="(one, at) in lines" :key="at" :class="one.kind">
            <span class="at">{{ clock(one.at_s) }}</span> <b>{{ WORDS[one.kind] }}</b>
            <span>{{ display.sentence(one.says) }}</span>
          </li>
        </ol>
      </section>
      <p class="soft">
        A simulated engine, scored by rules that are written beside the drill. Your handbook and your instructor decide.
      </p>
    </template>
  </PageFrame>
</template>

<style scoped>
.first {
  margin-bottom: 10px;
  font-size: 32px;
  line-height: 1.2;
  font-weight: 700;
  max-width: 26em;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 12px 0;
}
.ways .main {
  font-size: 22px;
  min-height: 64px;
}
h2 {
  margin: 18px 0 6px;
  font-size: 22px;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 16px;
  margin: 0;
}
dd {
  margin: 0;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 56px 76px minmax(0, 1fr);
  gap: 12px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
li.true > b {
  color: var(--stop);
}
li.method {
  color: var(--look);
}
@media (max-width: 700px) {
  li {
    grid-template-columns: 56px minmax(0, 1fr);
  }
  li > span:last-child {
    grid-column: 1 / -1;
  }
}
</style>

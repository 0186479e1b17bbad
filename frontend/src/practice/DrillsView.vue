<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, newId } from '@/api/client'
import type { DrillLine } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'

/** Drills on the simulated engine: what comes back today first, then all by kind; one tap begins one. */
const router = useRouter()
const pilot = useLocalStorage('pilot', '')
const name = computed(() => pilot.value.trim() || 'Pilot')
const {
  answer: page,
  problem,
  ask,
} = useAnswer(() => answer(api.GET('/api/drills', { params: { query: { pilot: name.value } } })))
watch(name, () => void ask())
/** On which aircraft: each drill's own, or one of one's own that has the same controls and needles. */
const chosen = useLocalStorage('drills-on', 'each')
const on = computed(() => page.value?.others.find((one) => one.id === chosen.value))
const drills = computed(() => (page.value?.drills ?? []).filter((one) => !on.value || one.aircraft === on.value.like))
const due = computed(() => drills.value.filter((one) => one.repeat?.is_due))
const kinds = computed(() =>
  [...new Set(drills.value.map((one) => one.kind))].map(
    (kind) => [kind, drills.value.filter((one) => one.kind === kind)] as const,
  ),
)
/** What to fly now: what comes back, else the first one that was never flown, the easiest first. */
const next = computed(
  () => due.value[0] ?? [...drills.value].sort((a, b) => a.level - b.level).find((one) => !one.repeat),
)
const {
  problem: notBegun,
  isSending,
  go: begin,
} = useSending(async (drill: DrillLine) => {
  const params = { path: { drill_id: drill.id } }
  const body = { id: newId(), pilot: name.value, aircraft: on.value?.id }
  await answer(api.POST('/api/drills/{drill_id}/flights', { params, body }))
  await router.push('/flight')
})
const said = (one: DrillLine) =>
  one.repeat ? `last ${one.repeat.last}, best ${one.repeat.best} of 100` : `level ${one.level} of 3 · not flown yet`
</script>

<template>
  <PageFrame title="Practice" :problem="problem || notBegun" :waiting="!page">
    <template v-if="page">
      <div class="top">
        <p class="sentence" role="status">
          {{
            due.length
              ? `${due.length} of ${drills.length} drills come back today.`
              : `${drills.length} drills; nothing comes back today.`
          }}
        </p>
        <label v-if="page.others.length">
          Aircraft
          <el-select
            :model-value="on?.id ?? 'each'"
            aria-label="Aircraft"
            size="large"
            @update:model-value="(id: string) => (chosen = id)"
          >
            <el-option value="each" label="Each drill's own" />
            <el-option v-for="one in page.others" :key="one.id" :value="one.id" :label="one.registration" />
          </el-select>
        </label>
        <label>Pilot <el-input v-model="pilot" placeholder="Your name" autocomplete="off" size="large" /></label>
      </div>
      <button v-if="next" type="button" class="main next" :disabled="isSending" @click="begin(next)">
        Fly next: {{ next.title }}
      </button>
      <section v-if="page.progress.length" aria-labelledby="skills" class="skills">
        <h2 id="skills">How it goes</h2>
        <dl>
          <template v-for="one in page.progress" :key="one.skill">
            <dt>{{ one.title }}</dt>
            <dd>
              <meter min="0" max="100" :value="one.mean" :aria-label="one.title"></meter> {{ one.mean }}
              <span class="soft">of {{ one.of }}</span>
            </dd>
          </template>
        </dl>
      </section>
      <section v-for="[kind, ones] in kinds" :key="kind" :aria-label="kind">
        <h2>{{ kind }}</h2>
        <ul>
          <li v-for="one in ones" :key="one.id" :class="{ due: one.repeat?.is_due }">
            <button type="button" :disabled="isSending" @click="begin(one)">
              <b>{{ one.title }}</b>
              <span>{{ one.aim }}</span>
              <span class="soft">
                {{ on?.registration ?? one.registration }} · {{ one.minutes }} min · {{ said(one)
                }}<template v-if="one.repeat?.is_due"> · comes back today</template>
              </span>
            </button>
          </li>
        </ul>
      </section>
      <p class="soft">
        A simulated engine is not yours: it shows what faults look like, and which order helps. What your handbook and
        your instructor say is what you fly. <RouterLink to="/instructor">Instructor's page</RouterLink>
      </p>
    </template>
  </PageFrame>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: end;
  margin-bottom: 10px;
}
.top .sentence {
  flex: 1 1 320px;
}
.top label {
  display: grid;
}
.top .el-select {
  width: 190px;
}
.next {
  min-height: 68px;
  margin-bottom: 16px;
  text-align: left;
}
h2 {
  margin: 18px 0 6px;
  font-size: 22px;
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li button {
  display: grid;
  gap: 2px;
  align-content: start;
  width: 100%;
  height: 100%;
  padding: 10px 14px;
  text-align: left;
}
li b {
  font-size: 22px;
  line-height: 1.2;
}
.due button {
  border-color: var(--ink);
  border-width: 4px;
  padding: 8px 12px;
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
@media (max-width: 700px) {
  ul {
    grid-template-columns: minmax(0, 1fr);
  }
  dl {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

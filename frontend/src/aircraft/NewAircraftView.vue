<script setup lang="ts">
import { useLocalStorage, watchDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '@/api/client'
import type { Answers, Question, QuestionsPage } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'

/** An aircraft of one's own: the nearest kind, then its figures, a page a subject, each with its place in the handbook. */
type Typed = Record<string, { text: string; choice: string }>
const router = useRouter()
const display = useDisplay()
const { answer: fleet, problem } = useAnswer(() => answer(api.GET('/api/aircraft')))
const made = useLocalStorage('new_aircraft', { kind: '', registration: '', name: '', typed: {} as Typed })
const asked = shallowRef<QuestionsPage>()
const said = shallowRef<Answers>()
const subject = ref('')
const kinds = computed(() => (fleet.value?.aircraft ?? []).filter((one) => !one.is_own))
const subjects = computed(() => [...new Set((asked.value?.questions ?? []).map((one) => one.subject))])
const shown = computed(() => (asked.value?.questions ?? []).filter((one) => one.subject === subject.value))
const wrong = computed(() => new Map((said.value?.wrong ?? []).map((one) => [one.place, one])))
const params = computed(() => ({ path: { profile_id: made.value.kind } }))

watch(
  () => made.value.kind,
  async (kind) => {
    if (!kind) return
    asked.value = await answer(api.GET('/api/aircraft/{profile_id}/questions', { params: params.value }))
    subject.value = subjects.value[0] ?? ''
  },
  { immediate: true },
)
const answers = computed(() =>
  Object.fromEntries(
    Object.entries(made.value.typed)
      .map(([id, one]) => [id, { value: Number(one.text.replace(',', '.')), choice: one.choice }] as const)
      .filter(([id, one]) => made.value.typed[id]!.text.trim() !== '' && Number.isFinite(one.value)),
  ),
)
watchDebounced(
  [answers, () => asked.value],
  async () => {
    if (!asked.value) return
    const known = new Set(asked.value.questions.map((one) => one.id))
    const own = Object.fromEntries(Object.entries(answers.value).filter(([id]) => known.has(id)))
    said.value = await answer(
      api.POST('/api/aircraft/{profile_id}/answers', { params: params.value, body: { answers: own } }),
    )
  },
  { debounce: 250, immediate: true, deep: true },
)
const typedOf = (one: Question) =>
  made.value.typed[one.id] ?? { text: '', choice: display.choicesOf(one.unit)[0]?.id ?? 'us' }
function type(one: Question, text: string) {
  made.value.typed = { ...made.value.typed, [one.id]: { ...typedOf(one), text } }
}
function choose(one: Question, choice: string) {
  made.value.typed = { ...made.value.typed, [one.id]: { ...typedOf(one), choice } }
}
const told = (of: string) =>
  (asked.value?.questions ?? []).filter((one) => one.subject === of && made.value.typed[one.id]?.text.trim()).length
const askedOf = (of: string) => (asked.value?.questions ?? []).filter((one) => one.subject === of).length
const next = computed(() => subjects.value[subjects.value.indexOf(subject.value) + 1])
const isNeeded = (one: Question) => said.value?.needed.includes(one.id)
const needed = computed(() => (asked.value?.questions ?? []).filter(isNeeded))

const {
  problem: notMade,
  isSending,
  go,
} = useSending(async () => {
  const known = new Set(asked.value!.questions.map((one) => one.id))
  const body = {
    name: made.value.name.trim() || 'My aircraft',
    registration: made.value.registration.trim().toUpperCase(),
    answers: Object.fromEntries(Object.entries(answers.value).filter(([id]) => known.has(id))),
  }
  if (!body.registration) throw new Error('Type the registration first.')
  const taken = await answer(api.POST('/api/aircraft/{profile_id}/own', { params: params.value, body }))
  localStorage.setItem('aircraft', taken.aircraft.id)
  made.value = { kind: '', registration: '', name: '', typed: {} }
  await router.push(`/aircraft/${taken.aircraft.id}`)
})
</script>

<template>
  <PageFrame title="A new aircraft" :problem="problem || notMade" :waiting="!fleet">
    <p class="sentence">Choose the nearest kind, then copy its figures from your handbook.</p>
    <form class="names" @submit.prevent>
      <label
        >The nearest kind
        <el-select v-model="made.kind" aria-label="The nearest kind" size="large" filterable placeholder="Choose">
          <el-option v-for="one in kinds" :key="one.id" :value="one.id" :label="one.name" />
        </el-select>
      </label>
      <label
        >Registration <el-input v-model="made.registration" size="large" autocomplete="off" placeholder="ZZ-ABC"
      /></label>
      <label
        >What you call it <el-input v-model="made.name" size="large" autocomplete="off" placeholder="My aircraft"
      /></label>
    </form>
    <template v-if="asked">
      <p>{{ asked.kind.about }}</p>
      <nav class="subjects" aria-label="Subjects">
        <button v-for="of in subjects" :key="of" type="button" :aria-pressed="of === subject" @click="subject = of">
          {{ of }} <small>{{ told(of) }} of {{ askedOf(of) }}</small>
        </button>
      </nav>
      <section :aria-label="subject">
        <h2>{{ subject }}</h2>
        <div v-for="one in shown" :key="one.id" class="question">
          <label :for="one.id">
            <b>{{ display.sentence(one.title) }}</b>
            <small class="soft">{{ one.place }}</small>
          </label>
          <el-input
            :id="one.id"
            :model-value="typedOf(one).text"
            size="large"
            inputmode="decimal"
            autocomplete="off"
            :aria-invalid="wrong.has(one.id)"
            :placeholder="display.typedIn(one.kind_has, one.unit, typedOf(one).choice)"
            @update:model-value="(text: string) => type(one, text)"
          />
          <el-select
            v-if="display.choicesOf(one.unit).length > 1"
            :model-value="typedOf(one).choice"
            :aria-label="`Unit of ${one.title}`"
            size="large"
            @update:model-value="(choice: string) => choose(one, choice)"
          >
            <el-option
              v-for="unit in display.choicesOf(one.unit)"
              :key="unit.id"
              :value="unit.id"
              :label="unit.label"
            />
          </el-select>
          <span v-else>{{ display.choicesOf(one.unit)[0]?.label }}</span>
          <small v-if="wrong.get(one.id)" class="stop" role="status">
            {{ display.sentence(`${wrong.get(one.id)!.rule} ${wrong.get(one.id)!.way_out}`) }}
          </small>
          <small v-else-if="isNeeded(one)" class="look">needed</small>
          <small v-else-if="!typedOf(one).text.trim()" class="soft">not judged without it</small>
        </div>
        <p v-if="next">
          <button type="button" @click="subject = next">Next: {{ next }}</button>
        </p>
      </section>
      <section aria-label="Make it" class="make">
        <p>From the kind come {{ asked.comes_with.join(', ') }}. Read them against your handbook.</p>
        <p v-if="needed.length" class="look">
          Still needed: {{ needed.map((one) => display.sentence(one.title)).join(', ') }}.
        </p>
        <p v-if="said?.not_judged.length" class="soft">
          {{ said.not_judged.length }} figures are not answered: what needs them is left unjudged, and says so.
        </p>
        <button type="button" class="main" :disabled="isSending || !!needed.length || !!wrong.size" @click="go()">
          Make this aircraft
        </button>
      </section>
    </template>
  </PageFrame>
</template>

<style scoped>
.names,
.subjects {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  margin: 10px 0;
}
.names label {
  flex: 1 1 240px;
}
.subjects {
  gap: 6px;
}
.question {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 150px 130px 220px;
  gap: 4px 14px;
  align-items: center;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.question label {
  display: grid;
}
.make {
  display: grid;
  gap: 8px;
  margin-top: 20px;
  justify-items: start;
}
@media (max-width: 800px) {
  .question {
    grid-template-columns: minmax(0, 1fr) 110px;
  }
  .question label {
    grid-column: 1 / -1;
  }
}
</style>

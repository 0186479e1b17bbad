<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watchEffect } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, newId } from '@/api/client'
import { useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'
import FieldsForm from './FieldsForm.vue'
import InstrumentsForm from './InstrumentsForm.vue'
import LimitsForm from './LimitsForm.vue'
import ListsForm from './ListsForm.vue'
import PowerForm from './PowerForm.vue'
import RowsForm from './RowsForm.vue'
import { useDraft } from './useDraft'

/** A profile is written: section by section, with what is wrong beside it; tried at once, saved as a version. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const router = useRouter()
const display = useDisplay()
const draft = useDraft(props.id)
const params = { path: { profile_id: props.id } }
const chosen = useLocalStorage('edit_section', 'lists')
const who = useLocalStorage('pilot', '')
const note = ref('')
const page = draft.page
const section = computed(() => page.value?.sections.find((one) => one.id === chosen.value) ?? page.value?.sections[0])
const shape = computed(() => section.value?.shape)
const FORMS = { fields: FieldsForm, rows: RowsForm, power: PowerForm } as const
const wrong = computed(() => draft.wrong.value)
const STATES = { kept: 'Draft kept', writing: 'Writing …', away: 'Not kept yet: the server is away' }
watchEffect(() => {
  const units = (draft.body.value.units ?? null) as { families?: object; gauges?: object } | null
  display.aircraft = page.value
    ? ({ families: units?.families ?? {}, gauges: units?.gauges ?? {} } as NonNullable<typeof display.aircraft>)
    : null
})
onBeforeUnmount(() => (display.aircraft = null))
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
  event.preventDefault()
  if (event.shiftKey) draft.redo()
  else draft.undo()
})
const {
  problem: notSaved,
  isSending,
  go: save,
} = useSending(async () => {
  if (!note.value.trim() || !who.value.trim()) throw new Error('Say what was changed, and who says so.')
  await draft.settled()
  await answer(api.POST('/api/aircraft/{profile_id}/versions', { params, body: { note: note.value, who: who.value } }))
  note.value = ''
  await draft.open()
})
const { problem: notTried, go: tryIt } = useSending(async () => {
  await draft.settled()
  const one = page.value!.aircraft
  const body = {
    id: newId(),
    aircraft: props.id,
    registration: one.registration,
    pilot: who.value || 'Pilot',
    source: 'bench' as const,
    speed: 1,
    draft: true,
  }
  await answer(api.POST('/api/flights', { body }))
  await router.push('/flight')
})
const { problem: notDropped, go: drop } = useSending(draft.discard)
const troubles = computed(() => [draft.problem.value, notSaved.value, notTried.value, notDropped.value].filter(Boolean))
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :title="page ? `Change ${page.aircraft.registration}` : 'Change an aircraft'"
    :problem="troubles[0]"
    :waiting="!page"
  >
    <template v-if="page && section">
      <div class="bar">
        <button type="button" :disabled="!draft.canUndo.value" @click="draft.undo()">Undo</button>
        <button type="button" :disabled="!draft.canRedo.value" @click="draft.redo()">Redo</button>
        <button v-if="page.aircraft.has_bench" type="button" :disabled="!!wrong.length" @click="tryIt()">
          Try it on the simulated engine
        </button>
        <button type="button" @click="drop()">Discard the draft</button>
        <span role="status" :class="draft.state.value === 'away' ? 'look' : 'soft'">{{
          STATES[draft.state.value]
        }}</span>
      </div>
      <div v-if="wrong.length" class="wrong" role="status">
        <p class="look">
          <b>{{ wrong.length }} to mend before it can be saved or tried:</b>
        </p>
        <ul>
          <li v-for="one in wrong.slice(0, 6)" :key="one.place + one.rule">
            <b v-if="one.place">{{ one.place.replaceAll('.', ' › ') }}:</b> {{ display.sentence(one.rule) }}
            {{ one.way_out }}
          </li>
        </ul>
      </div>
      <form class="save" @submit.prevent="save()">
        <label class="wide"
          >What was changed <el-input v-model="note" size="large" placeholder="Oil limits of the new engine"
        /></label>
        <label>Who <el-input v-model="who" size="large" placeholder="Your name" /></label>
        <button type="submit" class="main" :disabled="isSending || !!wrong.length">
          Save version {{ page.version + 1 }}
        </button>
      </form>
      <nav class="sections" aria-label="Sections">
        <button
          v-for="one in page.sections"
          :key="one.id"
          type="button"
          :aria-pressed="one.id === section.id"
          @click="chosen = one.id"
        >
          {{ one.title }}
        </button>
      </nav>
      <section :aria-label="section.title">
        <h2>{{ section.title }}</h2>
        <p class="soft">{{ section.about }}</p>
        <ListsForm v-if="shape === 'lists'" :draft="draft" />
        <LimitsForm v-else-if="shape === 'limits'" :draft="draft" />
        <InstrumentsForm v-else-if="shape === 'instruments'" :draft="draft" />
        <component
          :is="FORMS[shape as keyof typeof FORMS]"
          v-else
          :key="section.id"
          :section="section"
          :draft="draft"
        />
      </section>
    </template>
  </PageFrame>
</template>

<style scoped>
.bar,
.save,
.sections {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  margin-bottom: 10px;
}
.bar {
  align-items: center;
}
.save .wide {
  flex: 1 1 320px;
}
.save .main {
  font-size: 22px;
}
.sections {
  gap: 6px;
}
.sections button {
  padding: 0 12px;
}
ul {
  margin: 0 0 8px;
}
</style>

<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, newId } from '@/api/client'
import type { AircraftUnits } from '@/api/schema'
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
const lists = useTemplateRef<InstanceType<typeof ListsForm>>('lists')
/** A place as it is read: the section, then the names of what is on the way. */
function placeWords(place: string): string {
  const parts = place.split('.')
  const names = parts.map((part, at) => {
    const here = draft.at(parts.slice(0, at + 1).join('.')) as { title?: string; challenge?: string } | undefined
    const limit = parts[0] === 'limits' && at === 1 ? page.value?.limits.find((row) => row.name === part) : undefined
    return limit?.title ?? here?.challenge ?? here?.title ?? (/^\d+$/.test(part) ? '' : part.replaceAll('_', ' '))
  })
  return names.filter((one) => one && one !== 'lists' && one !== 'items' && one !== 'phases').join(' › ')
}
/** Open the section, and in the lists the item, where something is wrong. */
async function show(place: string) {
  const own = page.value?.sections.filter((one) => place === one.path || place.startsWith(`${one.path}.`)) ?? []
  const nearest = own.filter((one) => one.path).sort((a, b) => b.path.length - a.path.length)[0]
  chosen.value = place.startsWith('phases.') && !place.includes('instruments') ? 'lists' : (nearest?.id ?? 'names')
  await nextTick()
  lists.value?.show(place)
}
const STATES = {
  none: 'As it was saved',
  kept: 'Draft kept',
  writing: 'Writing …',
  away: 'Not kept yet: the server is away',
}
/** Figures are shown in the units of the draft, as they will be. */
const gauges = computed(() => {
  const units = (draft.body.value.units ?? {}) as Partial<AircraftUnits>
  return page.value && { ...page.value.aircraft, units: { families: units.families ?? {}, gauges: units.gauges ?? {} } }
})
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
    :gauges="gauges"
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
            <button v-if="one.place" type="button" class="plain" @click="show(one.place)">
              <b>{{ placeWords(one.place) }}</b>
            </button>
            {{ display.sentence(one.rule) }}
            {{ one.way_out }}
          </li>
        </ul>
      </div>
      <form class="save" @submit.prevent="save()">
        <label class="wide"
          >What was changed <el-input v-model="note" size="large" placeholder="Oil limits of the new engine"
        /></label>
        <label>Who <el-input v-model="who" size="large" placeholder="Your name" /></label>
        <button type="submit" class="main" :disabled="isSending || !!wrong.length || draft.state.value === 'none'">
          Save version {{ page.version + 1 }}
        </button>
      </form>
      <div class="parts">
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
          <ListsForm v-if="shape === 'lists'" ref="lists" :draft="draft" />
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
      </div>
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
.parts {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
.sections {
  gap: 4px;
}
.sections button {
  flex: 1 1 100%;
  padding: 0 12px;
  text-align: left;
  border-color: transparent;
  background: none;
}
.sections button[aria-pressed='true'] {
  background: var(--key);
}
@media (max-width: 800px) {
  .parts {
    grid-template-columns: minmax(0, 1fr);
  }
  .sections button {
    flex: 0 1 auto;
    border-color: var(--edge);
  }
}
ul {
  margin: 0 0 8px;
}
</style>

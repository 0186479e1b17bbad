<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import { answer, api, asFile } from '@/api/client'
import type { PanelControl, PanelPage } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import PanelPhoto from './PanelPhoto.vue'

/** A photo of the panel with the place of each control, and a drill: find it against the clock. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const ROUNDS = 10
const params = { path: { profile_id: props.id } }
const { answer: page, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}/panel', { params })))
const chosen = ref('')
const version = ref(0)
const controls = computed(() => page.value?.controls ?? [])
const spots = computed(() => page.value?.spots ?? [])
const spotOf = (control: string) => spots.value.find((one) => one.control === control)
const marked = computed(() => controls.value.filter((one) => spotOf(one.id)))
const one = computed(() => controls.value.find((c) => c.id === chosen.value))

const { problem: notTaken, go: take } = useSending(async (file: File) => {
  page.value = await answer<PanelPage>(
    api.PUT('/api/aircraft/{profile_id}/panel.jpg', {
      params,
      body: file as never,
      headers: { 'Content-Type': 'application/octet-stream' },
      ...asFile,
    }),
  )
  version.value++
})
const { problem: notDropped, go: drop } = useSending(async () => {
  page.value = await answer(api.DELETE('/api/aircraft/{profile_id}/panel', { params }))
})
const { problem: notKept, go: keep } = useSending(async (made: PanelPage['spots']) => {
  page.value = await answer(api.PUT('/api/aircraft/{profile_id}/panel/spots', { params, body: { spots: made } }))
})
function tap(x: number, y: number) {
  if (drill.value) return void answered(x, y)
  if (!one.value) return
  const rest = spots.value.filter((spot) => spot.control !== chosen.value)
  void keep([...rest, { control: chosen.value, x, y }])
  const at = controls.value.findIndex((c) => c.id === chosen.value)
  chosen.value = controls.value.slice(at + 1).find((c) => !spotOf(c.id))?.id ?? ''
}
const unmark = (control: string) => keep(spots.value.filter((spot) => spot.control !== control))

/** The drill: controls in a drawn order, each found or not, with the seconds that it took. */
interface Drill {
  asked: PanelControl[]
  at: number
  begun: number
  rows: { title: string; seconds: number; misses: number }[]
  misses: number
}
const drill = ref<Drill>()
const now = ref(0)
const clock = window.setInterval(() => (now.value = performance.now()), 200)
onBeforeUnmount(() => clearInterval(clock))
const wanted = computed(() => drill.value?.asked[drill.value.at])
function begin() {
  const drawn = [...marked.value].sort(() => Math.random() - 0.5).slice(0, ROUNDS)
  drill.value = { asked: drawn, at: 0, begun: performance.now(), rows: [], misses: 0 }
  chosen.value = ''
}
const { problem: notTouched, go: answered } = useSending(async (x: number, y: number) => {
  const run = drill.value
  const control = wanted.value
  if (!run || !control) return
  const took = (performance.now() - run.begun) / 1000
  const query = { control: control.id, x, y }
  const said = await answer(api.GET('/api/aircraft/{profile_id}/panel/touch', { params: { ...params, query } }))
  if (!said.found) run.misses++
  else {
    run.rows.push({ title: control.title, seconds: took, misses: run.misses })
    Object.assign(run, { at: run.at + 1, begun: performance.now(), misses: 0 })
  }
})
const troubles = computed(
  () => problem.value || notTaken.value || notDropped.value || notKept.value || notTouched.value,
)
const pick = (event: Event) => {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) void take(file)
}
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    :title="page ? `Panel of ${page.aircraft.registration}` : 'Panel'"
    :problem="troubles"
    :waiting="!page"
  >
    <template v-if="page">
      <p class="sentence">
        {{
          page.width
            ? `${marked.length} of ${controls.length} controls are marked.`
            : 'A photo of the panel shows each item where it is.'
        }}
      </p>
      <p class="row">
        <label class="key out file"
          >{{ page.width ? 'Another photo' : 'Choose a photo' }}
          <input type="file" accept="image/jpeg,image/png,image/webp" aria-label="Photo of the panel" @change="pick" />
        </label>
        <button v-if="page.width" type="button" @click="drop()">Remove the photo</button>
        <button v-if="marked.length > 1 && !drill" type="button" @click="begin">Find it against the clock</button>
        <button v-if="drill" type="button" @click="drill = undefined">End the drill</button>
      </p>
      <p class="soft">
        It stays in this machine’s database. It is written anew, without the place and the time that a camera writes
        into it. At most 8 MB.
      </p>
      <div v-if="drill" class="drill" role="status">
        <p v-if="wanted">
          {{ drill.at + 1 }} of {{ drill.asked.length }}: touch <b>{{ wanted.title }}</b>
          <span class="soft">{{ Math.max(0, Math.floor((now - drill.begun) / 1000)) }} s</span>
          <b v-if="drill.misses" class="look">Not there.</b>
        </p>
        <template v-else>
          <h2>Found</h2>
          <ol>
            <li v-for="row in drill.rows" :key="row.title">
              {{ row.title }}: {{ row.seconds.toFixed(1) }} s{{ row.misses ? `, ${row.misses} wrong` : '' }}
            </li>
          </ol>
        </template>
      </div>
      <div v-if="page.width" class="halves">
        <PanelPhoto
          :id="id"
          :key="version"
          :spots="drill ? [] : spots"
          :chosen="chosen"
          :can-tap="!!one || !!drill"
          @tap="tap"
        />
        <section v-if="!drill" aria-label="Controls">
          <p>{{ one ? `Touch ${one.title} on the photo.` : 'Choose a control, then touch it on the photo.' }}</p>
          <ol>
            <li v-for="control in controls" :key="control.id">
              <button type="button" :aria-pressed="control.id === chosen" @click="chosen = control.id">
                {{ spotOf(control.id) ? '✓ ' : '' }}{{ control.title }}
              </button>
              <button v-if="spotOf(control.id)" type="button" class="plain" @click="unmark(control.id)">Unmark</button>
              <small class="soft">{{ control.where }}</small>
            </li>
          </ol>
        </section>
      </div>
    </template>
  </PageFrame>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 8px 0;
}
.file {
  position: relative;
  cursor: pointer;
}
.file input {
  position: absolute;
  inset: 0;
  opacity: 0;
  cursor: pointer;
}
.file:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 20px;
  align-items: start;
}
@media (max-width: 800px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
section ol {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 60vh;
  overflow-y: auto;
}
li {
  margin-bottom: 6px;
}
li small {
  display: block;
}
.drill {
  font-size: 22px;
}
</style>

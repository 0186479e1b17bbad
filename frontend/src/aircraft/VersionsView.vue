<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { answer, api } from '@/api/client'
import type { DifferencesPage } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'
import { when } from '@/records/words'

/** Every version of an aircraft's profile: what was said of it, two of them compared line by line, back to an older one. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const DRAFT = 0
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const { answer: page, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}/versions', { params })))
const who = useLocalStorage('pilot', '')
const before = ref<number>()
const after = ref<number>()
const shown = shallowRef<DifferencesPage>()
const options = computed(() => [
  ...(page.value?.has_draft ? [{ number: DRAFT, say: 'The draft' }] : []),
  ...(page.value?.versions ?? []).map((one) => ({ number: one.number, say: `Version ${one.number}: ${one.note}` })),
])
const { problem: notCompared, go: compare } = useSending(async () => {
  if (before.value === undefined || after.value === undefined) throw new Error('Choose two versions.')
  const query = { before: before.value, after: after.value }
  shown.value = await answer(api.GET('/api/aircraft/{profile_id}/differences', { params: { ...params, query } }))
})
const { problem: notBack, go: back } = useSending(async (number: number) => {
  if (!who.value.trim()) throw new Error('Type your name first.')
  const path = { profile_id: props.id, number }
  page.value = await answer(
    api.POST('/api/aircraft/{profile_id}/versions/{number}/back', { params: { path }, body: { who: who.value } }),
  )
})
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    :title="page ? `Versions of ${page.aircraft.registration}` : 'Versions'"
    :problem="problem || notCompared || notBack"
    :waiting="!page"
  >
    <template v-if="page">
      <p class="sentence">
        {{ page.versions.length === 1 ? 'One version' : `${page.versions.length} versions` }}; a flight keeps the one
        that it was flown with.
      </p>
      <p v-if="page.has_draft" class="look">
        Something is being written that does not count yet.
        <RouterLink :to="`/aircraft/${id}/edit`">Go on writing</RouterLink>
      </p>
      <table>
        <thead>
          <tr>
            <th>Version</th>
            <th>What was changed</th>
            <th>Who</th>
            <th>When</th>
            <th><span class="sr">Back to it</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in page.versions" :key="one.number">
            <td>
              <b>{{ one.number }}</b> <span v-if="one.counts">counts now</span>
            </td>
            <td>{{ one.note }}</td>
            <td>{{ one.who }}</td>
            <td>{{ one.saved_utc ? when(one.saved_utc) : '' }}</td>
            <td>
              <button v-if="!one.counts" type="button" @click="back(one.number)">
                Back to version {{ one.number }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p>
        <label class="who">Your name <el-input v-model="who" size="large" /></label>
      </p>
      <h2>Compare</h2>
      <form class="compare" @submit.prevent="compare()">
        <label
          >Before
          <el-select v-model="before" aria-label="Before" size="large" placeholder="Choose">
            <el-option v-for="one in options" :key="one.number" :value="one.number" :label="one.say" />
          </el-select>
        </label>
        <label
          >After
          <el-select v-model="after" aria-label="After" size="large" placeholder="Choose">
            <el-option v-for="one in options" :key="one.number" :value="one.number" :label="one.say" />
          </el-select>
        </label>
        <button type="submit">Compare</button>
      </form>
      <template v-if="shown">
        <p v-if="!shown.lines.length" role="status">They say the same.</p>
        <table v-else class="lines" aria-label="What differs">
          <thead>
            <tr>
              <th>Where</th>
              <th>Before</th>
              <th>After</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(line, at) in shown.lines" :key="at">
              <td>{{ line.place }}</td>
              <td>
                <del v-if="line.before !== null">{{ display.sentence(line.before) }}</del>
              </td>
              <td>
                <b v-if="line.after !== null">{{ display.sentence(line.after) }}</b>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </template>
  </PageFrame>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  vertical-align: top;
  padding: 6px 14px 6px 0;
  border-bottom: 1px solid var(--line);
  overflow-wrap: anywhere;
}
.compare {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
}
.compare label {
  flex: 1 1 280px;
}
.who {
  display: block;
  max-width: 320px;
  margin-top: 10px;
}
.sr {
  position: absolute;
  clip-path: inset(50%);
}
</style>

<script setup lang="ts">
import { answer, api } from '@/api/client'
import { useAnswer } from '@/api/useAnswer'
import { computed, ref, useTemplateRef } from 'vue'
import LimitTable from './LimitTable.vue'
import PageContents from '@/parts/PageContents.vue'
import PageFrame from '@/parts/PageFrame.vue'
import { speaksOf } from '@/parts/search'
import { useDisplay } from '@/parts/display'

/** A profile in plain view: every limit with its source, every list with its items, what is put back. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const { answer: profile, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}', { params })))
const wanted = ref('')
const SIZES = [
  ['A5', 'A5'],
  ['A6', 'A6'],
  ['knee', 'Knee board'],
  ['A4-folded', 'A4, folded'],
] as const
const size = ref('A5')
const large = ref(false)
const night = ref(false)
const says = (...texts: (string | null)[]) => speaksOf(wanted.value, display.sentence(texts.join(' ')))
/** The phases with the lists whose items speak of what is looked for. */
const phases = computed(() =>
  (profile.value?.phases ?? [])
    .map((phase, k) => ({
      id: `phase-${k}`,
      title: phase.title,
      lists: phase.lists
        .map((list) => ({
          ...list,
          items: list.items.filter((i) => says(list.title, i.challenge, i.response, i.why, i.where)),
        }))
        .filter((list) => list.items.length),
    }))
    .filter((phase) => phase.lists.length),
)
const parts = computed(() => [
  { id: 'limits', title: 'Limits' },
  { id: 'put-back', title: 'Put back' },
  ...phases.value,
  { id: 'emergency', title: 'Emergency card' },
])
const table = useTemplateRef<InstanceType<typeof LimitTable>>('table')
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: profile?.aircraft.registration }"
    :gauges="profile?.aircraft"
    :title="profile ? `${profile.aircraft.registration}, ${profile.aircraft.name}` : 'Limits and lists'"
    :problem="problem"
    :waiting="!profile"
  >
    <template v-if="profile">
      <p class="sentence">
        {{ profile.limits.length }} limits,
        {{ profile.unsigned ? `${profile.unsigned} of them not checked against your handbook` : 'all checked' }}.
      </p>
      <p class="out-row">
        <a :href="`/api/aircraft/${id}/profile.json`" download class="key out">Save as JSON</a>
        <a
          :href="`/api/aircraft/${id}/card.pdf?size=${size}&large=${large}&night=${night}`"
          target="_blank"
          class="key out"
          >Card for paper (PDF)</a
        >
        <el-select v-model="size" aria-label="Size of the card" size="large" class="size">
          <el-option v-for="[one, say] in SIZES" :key="one" :value="one" :label="say" />
        </el-select>
        <el-checkbox v-model="large" size="large">Large print</el-checkbox>
        <el-checkbox v-model="night" size="large">Night red</el-checkbox>
        <span class="soft"> content {{ profile.content_hash }}</span>
      </p>
      <PageContents v-model="wanted" :parts="parts" finds="Find a limit or an item" />
      <h2 id="limits">Limits</h2>
      <p v-if="profile.is_changed" class="look">
        This profile differs from what ships.
        <button type="button" class="plain" @click="table?.back()">Bring all of it back to shipped</button>
      </p>
      <LimitTable
        :id="id"
        ref="table"
        :limits="profile.limits"
        :wanted="wanted"
        @changed="(page) => (profile = page)"
      />
      <h2 id="put-back">Put back</h2>
      <p v-for="pair in profile.put_backs" :key="pair.title">
        {{ pair.title }}: <b>{{ display.sentence(pair.back) }}</b>
        <span class="soft">due after {{ Math.round(pair.due_s) }} s</span>
      </p>
      <section v-for="phase in phases" :key="phase.id">
        <h2 :id="phase.id">{{ phase.title }}</h2>
        <template v-for="list in phase.lists" :key="list.title">
          <h3>
            {{ list.title }}
            <small class="soft">
              {{ list.memory ? 'by heart' : list.style === 'flow_verify' ? 'flow, then read' : 'read and do' }}
              {{ list.only_if.length ? display.sentence(`, only if ${list.only_if.join(', ')}`) : '' }}
            </small>
          </h3>
          <ol>
            <li v-for="item in list.items" :key="item.id">
              <b>{{ item.challenge }}</b>: {{ display.sentence(item.response) }}
              <span v-if="item.killer" class="look">killer item</span>
              <span class="soft">
                {{ display.sentence(item.why)
                }}{{ item.only_if.length ? display.sentence(` Only if ${item.only_if.join(', ')}.`) : '' }}
                {{ item.where ? `Where: ${item.where}.` : '' }}
                {{ item.mistaken_for ? `Not: ${item.mistaken_for}.` : '' }}
              </span>
            </li>
          </ol>
        </template>
      </section>
      <h2 id="emergency">Emergency card</h2>
      <section v-for="drill in profile.emergency" :key="drill.title">
        <h3 class="stop">{{ drill.title }}</h3>
        <ol>
          <li v-for="step in drill.steps" :key="step">{{ display.sentence(step) }}</li>
        </ol>
      </section>
    </template>
  </PageFrame>
</template>

<style scoped>
.out-row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
.out-row :deep(.el-checkbox) {
  margin-right: 0;
}
.out-row :deep(.el-checkbox__label) {
  font-size: var(--small);
}
.size {
  width: 170px;
}
ol {
  margin: 4px 0 12px;
}
</style>

<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { answer, api, asFile } from '@/api/client'
import type { HeardPage } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import LiveTrace from '@/parts/LiveTrace.vue'
import PageFrame from '@/parts/PageFrame.vue'
import { useDisplay } from '@/parts/display'

/** A run-up that was recorded by a tablet's microphone: the speed is heard from it, with the needle read once. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const display = useDisplay()
const params = { path: { profile_id: props.id } }
const { answer: own, problem } = useAnswer(() => answer(api.GET('/api/aircraft/{profile_id}', { params })))
const file = shallowRef<File>()
const second = ref('')
const rpm = ref('')
const page = shallowRef<HeardPage>()
const figure = (text: string) => (text.trim() ? Number(text.replace(',', '.')) : NaN)
const isReady = computed(
  () => file.value && Number.isFinite(figure(second.value)) && Number.isFinite(figure(rpm.value)),
)
const {
  problem: notHeard,
  isSending,
  go: listen,
} = useSending(async () => {
  const query = { at_s: figure(second.value), rpm: figure(rpm.value) }
  page.value = await answer<HeardPage>(
    api.POST('/api/aircraft/{profile_id}/hearing', {
      params: { ...params, query },
      body: file.value as never,
      headers: { 'Content-Type': 'application/octet-stream' },
      ...asFile,
    }),
  )
})
const chosen = (event: Event) => (file.value = (event.target as HTMLInputElement).files?.[0])
const data = computed(() => [page.value?.time_s ?? [], page.value?.rpm ?? []] as (number | null)[][])
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: own?.aircraft.registration }"
    :gauges="own?.aircraft"
    :title="own ? `${own.aircraft.registration} by ear` : 'By ear'"
    :problem="problem || notHeard"
    :waiting="!own"
  >
    <template v-if="own">
      <p class="sentence" role="status">
        {{
          !page
            ? 'Record the run-up, read the needle once, listen here.'
            : (page.why ?? `${page.told_pct} % of ${page.seconds} s is told, to ±${page.plus_minus_rpm} RPM.`)
        }}
      </p>
      <form class="asked" @submit.prevent="listen()">
        <label class="key out file"
          >{{ file ? file.name : 'Choose a recording, WAV' }}
          <input type="file" accept=".wav,audio/wav" aria-label="Recording, WAV" @change="chosen" />
        </label>
        <label>The needle was read at, s <el-input v-model="second" inputmode="decimal" size="large" /></label>
        <label>It showed, RPM <el-input v-model="rpm" inputmode="decimal" size="large" /></label>
        <button type="submit" class="main" :disabled="!isReady || isSending">
          {{ isSending ? 'Listening …' : 'Listen' }}
        </button>
      </form>
      <div v-if="page && !page.why" class="picture">
        <LiveTrace
          :data="data"
          :lines="[{ label: 'RPM', scale: 'rpm' }]"
          :axis="{ x: 'seconds', y: 'RPM' }"
          :label="`RPM as it was heard over ${page.seconds} seconds`"
        />
      </div>
      <article v-for="one in page?.checks ?? []" :key="one.at_s" :class="one.verdict">
        <h2>{{ one.title }}: {{ one.verdict }}</h2>
        <p>{{ display.sentence(one.because) }} {{ display.sentence(one.next) }}</p>
      </article>
      <p v-if="page && !page.why && !page.checks.length">No check was heard in it.</p>
      <p class="soft">
        The sound is held in memory only and forgotten with the answer. The ear tells RPM near run-up speed and above,
        never idle, a start or how smooth it ran; the needle decides. Sides stay first and second.
      </p>
    </template>
  </PageFrame>
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: end;
  margin-bottom: 12px;
}
.asked label {
  flex: 0 1 220px;
}
.asked .file {
  position: relative;
  flex: 1 1 260px;
}
.file input {
  position: absolute;
  inset: 0;
  opacity: 0;
  cursor: pointer;
}
.file:focus-within {
  outline: 3px solid var(--ink);
}
.picture {
  position: relative;
  height: 300px;
}
.asked .main {
  font-size: 22px;
}
</style>

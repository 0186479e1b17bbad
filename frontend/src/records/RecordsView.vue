<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, asFile } from '@/api/client'
import type { FlightLine } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'
import { KINDS, dropWords, length, when } from './words'

/** All flights, opened by a sentence; a recorder's file can be read in. */
const router = useRouter()
const SHOWN = 200
const wanted = ref<{ registration?: string; kind?: FlightLine['kind']; verdict?: NonNullable<FlightLine['verdict']> }>(
  {},
)
const days = ref<[string, string] | null>(null)
const {
  answer: kept,
  problem,
  ask,
} = useAnswer(() => {
  const [since, until] = days.value ?? []
  const query = { ...wanted.value, since, until, limit: SHOWN }
  for (const name of Object.keys(query) as (keyof typeof query)[]) if (!query[name]) delete query[name]
  return answer(api.GET('/api/flights', { params: { query } }))
})
watch([wanted, days], ask, { deep: true })
const gone = ref<FlightLine>()
/** Take a flight out of the records, or bring it back; a list that was just emptied says how. */
const { problem: notHidden, go: hide } = useSending(async (row: FlightLine, hidden: boolean) => {
  const params = { path: { flight_id: row.id } }
  await answer(api.POST('/api/flights/{flight_id}/hidden', { params, body: { hidden } }))
  gone.value = hidden ? row : undefined
  await ask()
})
const { answer: fleet } = useAnswer(() => answer(api.GET('/api/aircraft')))
const { answer: settings } = useAnswer(() => answer(api.GET('/api/settings')))
/** Whose limits a file is judged by: no default, because a wrong one would judge wrongly. */
const whose = ref('')
const {
  problem: notRead,
  isSending: isReading,
  go,
} = useSending(async (file: File) => {
  const most = settings.value?.most_upload_bytes ?? Infinity
  if (file.size > most)
    throw new Error(`The file has ${megabytes(file.size)} MB; the limit is ${megabytes(most)} MB. It was not read.`)
  const params = { query: { aircraft: whose.value, name: file.name } }
  const { id } = await answer(api.POST('/api/import', { params, body: file as never, ...asFile, headers: CSV }))
  await router.push(`/records/${id}`)
})
const CSV = { 'Content-Type': 'text/csv' }
const megabytes = (bytes: number) => (bytes / 1e6).toFixed(0)

async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) await go(file)
  input.value = ''
}
const VERDICTS = ['within', 'look', 'stop', 'incomplete', 'unknown'] as const
const isFiltered = computed(() => !!days.value || Object.values(wanted.value).some(Boolean))
</script>

<template>
  <PageFrame title="Records" :problem="problem || notRead || notHidden" :waiting="!kept">
    <p class="sentence">{{ kept?.sentence }}</p>
    <div class="reading">
      <label
        >Recorded on
        <el-select
          v-model="whose"
          aria-label="Recorded on"
          placeholder="choose the aircraft"
          size="large"
          class="whose"
        >
          <el-option
            v-for="one in fleet?.aircraft"
            :key="one.id"
            :value="one.id"
            :label="`${one.registration}, ${one.name}`"
          />
        </el-select>
      </label>
      <label class="key file" :class="{ off: !whose }">
        {{ isReading ? 'Reading …' : 'Read a trace file in' }}
        <input type="file" accept=".csv,text/csv" :disabled="isReading || !whose" @change="read" />
      </label>
    </div>
    <p v-if="gone" role="status" class="gone">
      {{ gone.registration }}, {{ when(gone.started_utc) }} is out of the records.
      <button type="button" @click="hide(gone, false)">Bring it back</button>
    </p>
    <div class="filters" role="group" aria-label="Which flights">
      <el-select v-model="wanted.registration" aria-label="Aircraft" placeholder="Any aircraft" clearable size="large">
        <el-option v-for="one in fleet?.aircraft" :key="one.id" :value="one.registration" :label="one.registration" />
      </el-select>
      <el-select v-model="wanted.kind" aria-label="Kind" placeholder="Any kind" clearable size="large">
        <el-option v-for="(words, kind) in KINDS" :key="kind" :value="kind" :label="words" />
      </el-select>
      <el-select v-model="wanted.verdict" aria-label="Verdict" placeholder="Any verdict" clearable size="large">
        <el-option v-for="verdict in VERDICTS" :key="verdict" :value="verdict" :label="verdict" />
      </el-select>
      <el-date-picker
        v-model="days"
        type="daterange"
        value-format="YYYY-MM-DD"
        start-placeholder="From"
        end-placeholder="To"
        aria-label="Days"
        size="large"
      />
    </div>
    <p v-if="kept" class="soft">
      {{ kept.of }} {{ kept.of === 1 ? 'flight' : 'flights'
      }}{{ kept.of > SHOWN ? `, the newest ${SHOWN} shown` : '' }}.
      <a href="/api/flights.zip" download>Save all as a file</a>
    </p>
    <el-table
      :data="kept?.flights ?? []"
      :empty-text="isFiltered ? 'No flight is like that' : 'No flights yet: begin one on the page “Aircraft”'"
      @row-click="(row: FlightLine) => router.push(`/records/${row.id}`)"
    >
      <el-table-column label="Flight" min-width="200">
        <template #default="{ row }">
          <RouterLink :to="`/records/${row.id}`" class="which">
            <b>{{ row.registration }}</b> <span>{{ when(row.started_utc) }}</span>
          </RouterLink>
        </template>
      </el-table-column>
      <el-table-column label="Judged" min-width="115">
        <template #default="{ row }"
          ><span :class="row.verdict"
            >{{ row.findings }} {{ row.verdict ? `· ${row.verdict}` : '' }}{{ row.ended ? '' : ' · going on' }}</span
          ></template
        >
      </el-table-column>
      <el-table-column label="Drops (RPM)" min-width="130">
        <template #default="{ row }">{{ dropWords(row.drops) }}</template>
      </el-table-column>
      <el-table-column prop="pilot" label="Pilot" min-width="110" />
      <el-table-column label="Kind" min-width="95">
        <template #default="{ row }">{{ KINDS[row.kind as FlightLine['kind']] }}</template>
      </el-table-column>
      <el-table-column label="Length" align="right" min-width="80">
        <template #default="{ row }">{{ length(row.length_s) }}</template>
      </el-table-column>
      <el-table-column label="Note" min-width="70">
        <template #default="{ row }">{{ row.note }}</template>
      </el-table-column>
      <el-table-column label="" width="112">
        <template #default="{ row }"
          ><button v-if="row.ended" type="button" class="plain" @click.stop="hide(row, true)">Delete</button></template
        >
      </el-table-column>
    </el-table>
  </PageFrame>
</template>

<style scoped>
.whose {
  width: 320px;
}
.reading {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin-bottom: 16px;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 8px;
}
.filters > * {
  flex: 1 1 150px;
  max-width: 280px;
}
.gone {
  display: flex;
  gap: 12px;
  align-items: center;
}
.which {
  display: inline-grid;
  align-content: center;
  white-space: nowrap;
}
.file {
  display: inline-flex;
  align-items: center;
  position: relative;
}
.off {
  color: var(--soft);
  border-style: dashed;
}
.file input {
  position: absolute;
  inset: 0;
  opacity: 0;
  cursor: pointer;
}
</style>

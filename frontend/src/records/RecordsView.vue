<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, asFile } from '@/api/client'
import type { FlightLine } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'

/** All flights, opened by a sentence; a recorder's file can be read in. */
const router = useRouter()
const { answer: kept, problem } = useAnswer(() => answer(api.GET('/api/flights')))
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
const rounded = (row: FlightLine, key: 'drop_left_rpm' | 'drop_right_rpm') =>
  row[key] === null ? '–' : Math.round(row[key]!)
</script>

<template>
  <PageFrame :back="{ to: '/', say: 'Aircraft' }" title="Records" :problem="problem || notRead">
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
    <el-table
      :data="kept?.flights ?? []"
      empty-text="No flights yet"
      @row-click="(row: FlightLine) => router.push(`/records/${row.id}`)"
    >
      <el-table-column label="When" min-width="120">
        <template #default="{ row }"
          ><RouterLink :to="`/records/${row.id}`">{{ row.started_utc.slice(0, 10) }}</RouterLink></template
        >
      </el-table-column>
      <el-table-column prop="registration" label="Aircraft" min-width="100" />
      <el-table-column prop="pilot" label="Pilot" min-width="120" />
      <el-table-column label="Left drop" align="right" min-width="90">
        <template #default="{ row }">{{ rounded(row, 'drop_left_rpm') }}</template>
      </el-table-column>
      <el-table-column label="Right drop" align="right" min-width="100">
        <template #default="{ row }">{{ rounded(row, 'drop_right_rpm') }}</template>
      </el-table-column>
      <el-table-column label="Judged" min-width="150">
        <template #default="{ row }"
          ><span :class="row.verdict"
            >{{ row.findings }} {{ row.verdict ? `· ${row.verdict}` : '' }}{{ row.ended ? '' : ' · going on' }}</span
          ></template
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

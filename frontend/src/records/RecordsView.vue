<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { get, upload } from '@/api/client'
import type { AircraftLine, FlightLine } from '@/api/schema'
import DisplaySwitches from '@/parts/DisplaySwitches.vue'

/** All flights, opened by a sentence; a recorder's file can be read in. */
const router = useRouter()
const flights = ref<FlightLine[]>([])
const sentence = ref('')
const problem = ref('')
const most = ref(100_000_000)
const isReading = ref(false)
const aircraft = ref<AircraftLine[]>([])
/** Whose limits a file is judged by: no default, because a wrong one would judge wrongly. */
const whose = ref('')

async function load() {
  const kept = await get<{ flights: FlightLine[]; sentence: string }>('/api/flights')
  flights.value = kept.flights
  sentence.value = kept.sentence
}
onMounted(() => {
  load().catch((error) => (problem.value = error.message))
  get<{ aircraft: AircraftLine[] }>('/api/aircraft')
    .then((kept) => (aircraft.value = kept.aircraft))
    .catch((error) => (problem.value = error.message))
  get<{ most_upload_bytes: number }>('/api/settings')
    .then((s) => (most.value = s.most_upload_bytes))
    .catch(() => undefined)
})

async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  problem.value = ''
  if (file.size > most.value) {
    problem.value = `The file has ${(file.size / 1e6).toFixed(0)} MB; the limit is ${(most.value / 1e6).toFixed(0)} MB. It was not read.`
    return
  }
  isReading.value = true
  try {
    const query = new URLSearchParams({ aircraft: whose.value, name: file.name })
    const { id } = await upload<{ id: string }>(`/api/import?${query}`, file)
    await router.push(`/records/${id}`)
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    isReading.value = false
    input.value = ''
  }
}
const rounded = (row: FlightLine, key: 'drop_left_rpm' | 'drop_right_rpm') =>
  row[key] === null ? '–' : Math.round(row[key]!)
</script>

<template>
  <main class="page">
    <header>
      <RouterLink to="/">‹ Aircraft</RouterLink>
      <b>Records</b>
      <nav><DisplaySwitches /></nav>
    </header>
    <p class="sentence">{{ sentence }}</p>
    <p v-if="problem" class="look" role="alert">
      <b>{{ problem }}</b>
    </p>
    <div class="reading">
      <label
        >Recorded on
        <select v-model="whose" aria-label="Recorded on">
          <option value="" disabled>choose the aircraft</option>
          <option v-for="one in aircraft" :key="one.id" :value="one.id">{{ one.registration }}, {{ one.name }}</option>
        </select>
      </label>
      <label class="key file" :class="{ off: !whose }">
        {{ isReading ? 'Reading …' : 'Read a trace file in' }}
        <input type="file" accept=".csv,text/csv" :disabled="isReading || !whose" @change="read" />
      </label>
    </div>
    <el-table
      :data="flights"
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
  </main>
</template>

<style scoped>
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

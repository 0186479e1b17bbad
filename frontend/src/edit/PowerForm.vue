<script setup lang="ts">
import { computed, ref } from 'vue'
import type { FormSection } from '@/api/schema'
import FieldsForm from './FieldsForm.vue'
import type { Json } from './json'
import type { Draft } from './useDraft'

/** The power table: one grid an altitude, pasted from a spreadsheet: manifold pressures above, engine speeds at the side. */
const props = defineProps<{
  /** The section. */
  section: FormSection
  /** What is being written. */
  draft: Draft
}>()
const problem = ref('')
const altitude = ref('0')
const axis = (name: string) => (props.draft.at(`power.${name}`) as number[] | undefined) ?? []
const altitudes = computed(() => axis('palt_ft'))
const speeds = computed(() => axis('rpm'))
const pressures = computed(() => axis('map_inhg'))
const pct = computed(() => (props.draft.at('power.pct') as number[][][] | undefined) ?? [])

/** Take a grid from the clipboard's text: the first row pressures, the first column speeds, tabs or semicolons between. */
function paste(event: ClipboardEvent) {
  event.preventDefault()
  problem.value = ''
  const text = event.clipboardData?.getData('text/plain') ?? ''
  const rows = text
    .trim()
    .split(/\r?\n/)
    .map((line) => line.split(/\t|;/).map((cell) => cell.trim()))
  const [head, ...body] = rows
  const across = (head ?? []).slice(1).map(figure)
  const down = body.map((row) => figure(row[0] ?? ''))
  const cells = body.map((row) => row.slice(1).map(figure))
  const isWhole = across.length > 1 && down.length > 1 && cells.every((row) => row.length === across.length)
  if (!isWhole || [...across, ...down, ...cells.flat()].some((one) => !Number.isFinite(one))) {
    problem.value =
      'Copy the whole grid with its headings: manifold pressures in the first row, engine speeds in the first column, only figures.'
    return
  }
  const palt = figure(altitude.value)
  if (!Number.isFinite(palt)) {
    problem.value = 'Type the pressure altitude of this grid first, in feet.'
    return
  }
  const isSame = same(across, pressures.value) && same(down, speeds.value)
  if (pct.value.length && !isSame && !altitudes.value.every((one) => one === palt)) {
    problem.value =
      'The grids of all altitudes need the same speeds and pressures. Remove the others first, or paste the same ones.'
    return
  }
  const kept = altitudes.value
    .map((one, at) => ({ palt: one, grid: pct.value[at]! }))
    .filter((one) => one.palt !== palt)
  const made = [...kept, { palt, grid: cells }].sort((a, b) => a.palt - b.palt)
  write(made, down, across)
}
function write(grids: { palt: number; grid: number[][] }[], down: number[], across: number[]) {
  const power = { ...((props.draft.at('power') as Record<string, Json> | undefined) ?? {}) }
  if (!grids.length)
    for (const name of ['palt_ft', 'rpm', 'map_inhg', 'pct', 'sources', 'friction_pct']) delete power[name]
  else
    Object.assign(power, {
      palt_ft: grids.map((one) => one.palt),
      rpm: down,
      map_inhg: across,
      pct: grids.map((one) => one.grid),
      sources: power.sources ?? 'The handbook of the type, cruise tables',
      friction_pct: power.friction_pct ?? 15,
    })
  props.draft.set('power', power)
}
function remove(palt: number) {
  const kept = altitudes.value
    .map((one, at) => ({ palt: one, grid: pct.value[at]! }))
    .filter((one) => one.palt !== palt)
  write(kept, speeds.value, pressures.value)
}
function put(a: number, r: number, c: number, text: string) {
  const given = figure(text)
  if (Number.isFinite(given)) props.draft.set(`power.pct.${a}.${r}.${c}`, given)
}
const figure = (text: string) => (text.trim() ? Number(text.replace(',', '.')) : Number.NaN)
const same = (a: number[], b: number[]) => a.length === b.length && a.every((one, at) => one === b[at])
</script>

<template>
  <FieldsForm :section="section" :draft="draft" />
  <h3>Paste a grid</h3>
  <p class="paste">
    <label>Pressure altitude [ft] <el-input v-model="altitude" size="large" inputmode="decimal" /></label>
    <label class="wide"
      >Paste here: pressures [inHg] in the first row, RPM in the first column, percent inside
      <textarea
        rows="2"
        aria-label="Paste the grid here"
        @paste="paste"
        @input="($event.target as HTMLTextAreaElement).value = ''"
      />
    </label>
  </p>
  <p v-if="problem" class="look" role="alert">{{ problem }}</p>
  <p v-if="!pct.length" class="soft">No table yet: percent of power is not told.</p>
  <section v-for="(grid, a) in pct" :key="altitudes[a]" :aria-label="`Power at ${altitudes[a]} ft`">
    <h3>
      At {{ altitudes[a]?.toLocaleString('en') }} ft
      <button type="button" @click="remove(altitudes[a]!)">Remove</button>
    </h3>
    <div class="scroll" tabindex="0" role="region" :aria-label="`Grid at ${altitudes[a]} ft`">
      <table>
        <thead>
          <tr>
            <th>RPM</th>
            <th v-for="one in pressures" :key="one">{{ one }} inHg</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in grid" :key="speeds[r]">
            <th>{{ speeds[r] }}</th>
            <td v-for="(cell, c) in row" :key="c">
              <input
                :value="cell"
                inputmode="decimal"
                :aria-label="`Percent at ${speeds[r]} RPM and ${pressures[c]} inHg`"
                @change="put(a, r, c, ($event.target as HTMLInputElement).value)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.paste {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
}
.wide {
  flex: 1 1 360px;
}
textarea {
  width: 100%;
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 2px solid var(--edge);
  border-radius: 6px;
}
.scroll {
  overflow-x: auto;
}
td input {
  width: 92px;
}
th {
  text-align: right;
  padding-right: 10px;
}
</style>

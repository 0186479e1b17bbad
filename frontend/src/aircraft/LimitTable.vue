<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { answer, api } from '@/api/client'
import type { LimitLine, ProfilePage } from '@/api/schema'
import { useSending } from '@/api/useAnswer'
import { speaksOf } from '@/parts/search'
import { useDisplay } from '@/parts/display'

/** Every limit with its source; one can be changed with a reason and a name, and brought back to what ships. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
  /** Its limits. */
  limits: LimitLine[]
  /** What is looked for in their titles. */
  wanted: string
}>()
const emit = defineEmits<{
  /** The profile as it is now. */
  changed: [page: ProfilePage]
}>()
const display = useDisplay()
const who = useLocalStorage('pilot', '')
const open = ref<LimitLine>()
const value = ref('')
const source = ref('type')
const reason = ref('')
const SOURCES = [
  ['type', 'The handbook of the type'],
  ['common practice', 'Common practice'],
] as const
/** Those that are looked for, by the part of a flight that they are read in. */
const groups = computed(() => {
  const found = props.limits.filter((limit) => speaksOf(props.wanted, limit.title, display.sentence(limit.note)))
  return [...new Set(found.map((limit) => limit.phase))].map((phase) => ({
    phase,
    limits: found.filter((limit) => limit.phase === phase),
  }))
})

function change(limit: LimitLine) {
  open.value = limit
  value.value = display.typed(limit.value, limit.unit)
  source.value = SOURCES.some(([known]) => known === limit.source) ? limit.source : 'type'
  reason.value = ''
}
const {
  problem,
  isSending,
  go: save,
} = useSending(async () => {
  const limit = open.value
  if (!limit) return
  if (!reason.value.trim() || !who.value.trim()) throw new Error('Say why, and who says so.')
  const figure = Number(value.value.replace(',', '.'))
  if (!value.value.trim() || !Number.isFinite(figure)) throw new Error(`“${value.value}” is not a figure.`)
  const params = { path: { profile_id: props.id, name: limit.name } }
  const body = { value: display.toCore(figure, limit.unit), source: source.value, reason: reason.value, who: who.value }
  emit('changed', await answer(api.POST('/api/aircraft/{profile_id}/limits/{name}', { params, body })))
  open.value = undefined
})
const { problem: notBack, go: back } = useSending(async (limit?: string) => {
  const params = { path: { profile_id: props.id } }
  const body = limit ? { limit } : {}
  emit('changed', await answer(api.POST('/api/aircraft/{profile_id}/shipped', { params, body })))
})
/** Say that figures were held against the handbook. */
const { problem: notSigned, go: sign } = useSending(async (names: string[]) => {
  if (!who.value.trim()) throw new Error('Type your name first: who has held it against the handbook?')
  const params = { path: { profile_id: props.id } }
  const body = { limits: names, who: who.value }
  emit('changed', await answer(api.POST('/api/aircraft/{profile_id}/signatures', { params, body })))
})
defineExpose({ back })
</script>

<template>
  <div class="signer">
    <label>Signed against the handbook by <el-input v-model="who" size="large" placeholder="Your name" /></label>
    <p v-if="problem || notBack || notSigned" class="look" role="alert">
      <b>{{ problem || notBack || notSigned }}</b>
    </p>
  </div>
  <table>
    <thead>
      <tr>
        <th>Limit</th>
        <th class="figure">Value</th>
        <th>Source</th>
        <th>Where it comes from</th>
        <th><span class="sr">Change</span></th>
      </tr>
    </thead>
    <tbody v-for="group in groups" :key="group.phase">
      <tr>
        <th colspan="5" scope="rowgroup">
          <h3>{{ group.phase }}</h3>
        </th>
      </tr>
      <template v-for="limit in group.limits" :key="limit.name">
        <tr>
          <td>{{ limit.title }}</td>
          <td class="figure">
            <b>{{ display.withUnit(limit.value, limit.unit) }}</b>
          </td>
          <td>
            {{ limit.source }}
            <small v-if="limit.signed_by" class="within">✓ {{ limit.signed_by }}, {{ limit.signed_on }}</small>
          </td>
          <td class="soft">
            {{ display.sentence(limit.note) }}
            <span v-if="limit.is_changed" class="look">
              Changed{{ limit.shipped === null ? '' : `: ships as ${display.withUnit(limit.shipped, limit.unit)}` }}.
              <button type="button" class="plain" @click="back(limit.name)">Back to shipped</button>
            </span>
          </td>
          <td class="doing">
            <button type="button" :aria-label="`Change ${limit.title}`" @click="change(limit)">Change</button>
            <button
              v-if="!limit.signed_by"
              type="button"
              :aria-label="`Sign ${limit.title}: held against the handbook`"
              @click="sign([limit.name])"
            >
              Sign
            </button>
          </td>
        </tr>
        <tr v-if="open?.name === limit.name">
          <td colspan="5">
            <form :aria-label="limit.title" @submit.prevent="save">
              <label
                >Value ({{ display.label(limit.unit) }}) <el-input v-model="value" size="large" inputmode="decimal"
              /></label>
              <label
                >Source
                <el-select v-model="source" aria-label="Source" size="large">
                  <el-option v-for="[known, say] in SOURCES" :key="known" :value="known" :label="say" />
                </el-select>
              </label>
              <label class="wide"
                >Why <el-input v-model="reason" size="large" placeholder="Section 2 of the handbook"
              /></label>
              <label>Who <el-input v-model="who" size="large" placeholder="Your name" /></label>
              <button type="submit" class="main" :disabled="isSending">Keep</button>
              <button type="button" @click="open = undefined">Leave it</button>
            </form>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
}
h3 {
  margin: 14px 0 0;
}
th,
td {
  text-align: left;
  padding: 5px 14px 5px 0;
  border-bottom: 1px solid var(--line);
}
.figure {
  text-align: right;
  white-space: nowrap;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: end;
  padding: 8px 0;
}
form label {
  flex: 0 1 180px;
}
form .wide {
  flex: 1 1 260px;
}
.doing {
  white-space: nowrap;
}
.doing button + button {
  margin-left: 6px;
}
.signer {
  position: sticky; /* in sight beside whichever row is signed */
  top: 0;
  z-index: 1;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: end;
  padding: 6px 0;
  background: var(--paper);
}
.sr {
  position: absolute;
  clip-path: inset(50%);
}
</style>

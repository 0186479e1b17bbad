<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { reactive, ref, shallowRef } from 'vue'
import { answer, api } from '@/api/client'
import type { OwnItemsKept } from '@/api/schema'
import { useAnswer, useSending } from '@/api/useAnswer'
import PageFrame from '@/parts/PageFrame.vue'

/** A pilot's own items behind the lists of an aircraft that others fly too: the lists stay, these follow for this pilot alone. */
const props = defineProps<{
  /** The aircraft's id. */
  id: string
}>()
const params = { path: { profile_id: props.id } }
const pilot = useLocalStorage('pilot', '')
const page = shallowRef<OwnItemsKept>()
const open = ref('')
const written = reactive({ challenge: '', response: '', why: '' })
const { problem: notAsked, go: ask } = useSending(async () => {
  const query = { pilot: pilot.value.trim() || 'nobody' }
  page.value = await answer(api.GET('/api/aircraft/{profile_id}/additions', { params: { ...params, query } }))
})
const { problem } = useAnswer(ask)
type OwnList = OwnItemsKept['lists'][number]
const {
  problem: notKept,
  isSending,
  go: keep,
} = useSending(async (list: OwnList, items: OwnList['items']) => {
  if (!pilot.value.trim()) throw new Error('Type your name first: these items are yours alone.')
  const body = { pilot: pilot.value.trim(), in_list: list.id, items: [...items] }
  page.value = await answer(api.PUT('/api/aircraft/{profile_id}/additions', { params, body }))
})
async function add(list: OwnList) {
  const why = written.why.trim()
  const own = { challenge: written.challenge.trim(), response: written.response.trim() }
  await keep(list, [...list.items, { ...own, why: why || 'An item of the pilot’s own list.' }])
  if (!notKept.value) Object.assign(written, { challenge: '', response: '', why: '' })
}
function start(list: OwnList) {
  open.value = open.value === list.id ? '' : list.id
  Object.assign(written, { challenge: '', response: '', why: '' })
}
</script>

<template>
  <PageFrame
    :aircraft="{ id, registration: page?.aircraft.registration }"
    :gauges="page?.aircraft"
    :title="page ? `My items on ${page.aircraft.registration}` : 'My items'"
    :problem="problem || notAsked || notKept"
    :waiting="!page"
  >
    <template v-if="page">
      <p class="sentence">They follow the aircraft’s own lists, for you alone.</p>
      <label class="who">Your name <el-input v-model="pilot" size="large" @change="ask()" /></label>
      <section v-for="list in page.lists" :key="list.id" :aria-label="`${list.phase}: ${list.title}`">
        <div class="head">
          <h2>
            {{ list.title }}
            <small
              >{{ list.phase }}<template v-if="list.locked"> · locked by {{ list.locked }}</template></small
            >
          </h2>
          <button type="button" :aria-expanded="open === list.id" @click="start(list)">Add an item</button>
        </div>
        <ul v-if="list.items.length">
          <li v-for="(item, at) in list.items" :key="at">
            <span
              ><b>{{ item.challenge }}</b> {{ item.response }}</span
            >
            <button
              type="button"
              :aria-label="`Take away ${item.challenge}`"
              :disabled="isSending"
              @click="keep(list, list.items.toSpliced(at, 1))"
            >
              Take away
            </button>
          </li>
        </ul>
        <form v-if="open === list.id" class="written" @submit.prevent="add(list)">
          <label>Item <el-input v-model="written.challenge" size="large" placeholder="Seat cushion" /></label>
          <label>Answer <el-input v-model="written.response" size="large" placeholder="Under me" /></label>
          <label class="wide">Why <el-input v-model="written.why" size="large" /></label>
          <button
            type="submit"
            class="main"
            :disabled="isSending || !written.challenge.trim() || !written.response.trim()"
          >
            Add
          </button>
        </form>
      </section>
    </template>
  </PageFrame>
</template>

<style scoped>
.who {
  display: block;
  max-width: 320px;
}
section {
  border-bottom: 1px solid var(--line);
  padding: 4px 0;
}
.head,
li,
.written {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.head h2 {
  flex: 1 1 auto;
  margin: 4px 0;
}
.head small {
  font-weight: 400;
  color: var(--soft);
}
ul {
  list-style: none;
  margin: 0 0 6px;
  padding: 0;
}
li span {
  flex: 0 1 520px;
}
.written {
  align-items: end;
  margin-bottom: 10px;
}
.written label {
  flex: 1 1 220px;
}
.written .wide {
  flex: 2 1 320px;
}
.written .main {
  font-size: 22px;
}
</style>

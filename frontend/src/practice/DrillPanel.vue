<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { DrillNow } from '@/api/schema'
import { useFlight } from '@/flight/flight'
import { useEnding } from '@/parts/ending'

/** A drill that is flown: what was told, what the pilot takes it for, what is to be done; its end leads to the debrief. */
const props = defineProps<{
  /** The drill. */
  drill: DrillNow
  /** The flight that it is. */
  id: string
  /** Its aircraft. */
  registration: string
}>()
const flight = useFlight()
const ending = useEnding()
const router = useRouter()
const opened = ref<'say' | 'decide'>()
const titleOf = (ones: DrillNow['causes'], id: string | null) => ones.find((one) => one.id === id)?.title
const said = computed(() => titleOf(props.drill.causes, props.drill.said))
const decided = computed(() => titleOf(props.drill.decisions, props.drill.decided))
const choices = computed(() => (opened.value === 'say' ? props.drill.causes : props.drill.decisions))
const chosen = computed(() => (opened.value === 'say' ? props.drill.said : props.drill.decided))
const open = (what: 'say' | 'decide') => (opened.value = opened.value === what ? undefined : what)
function tell(word: string) {
  void flight.event('drill_told', { what: opened.value!, word })
  opened.value = undefined
}
async function end() {
  await ending.end(props.id, props.registration, false)
  if (!ending.problem) await router.push(`/records/${props.id}/debrief`)
}
</script>

<template>
  <section class="drill" aria-label="Drill">
    <p>
      <b>{{ drill.title }}</b>
      <span class="soft">{{ drill.left_s > 0 ? `${drill.left_s} s` : 'its time is over' }}</span>
      <span v-if="drill.tell" class="tell" role="status"
        ><b>{{ drill.tell }}</b></span
      >
      <span v-else class="aim">{{ drill.aim }}</span>
    </p>
    <p class="row">
      <button v-if="drill.causes.length" type="button" :aria-expanded="opened === 'say'" @click="open('say')">
        {{ said ? `It is: ${said}` : 'What is it?' }}
      </button>
      <button v-if="drill.decisions.length" type="button" :aria-expanded="opened === 'decide'" @click="open('decide')">
        {{ decided ? `Decided: ${decided}` : 'What now?' }}
      </button>
      <button type="button" class="end" @click="end">End, debrief</button>
    </p>
    <p
      v-if="opened"
      class="row choices"
      role="group"
      :aria-label="opened === 'say' ? 'What it is' : 'What is to be done'"
    >
      <button
        v-for="one in choices"
        :key="one.id"
        type="button"
        :aria-pressed="one.id === chosen"
        @click="tell(one.id)"
      >
        {{ one.title }}
      </button>
    </p>
    <b v-if="ending.problem" class="look" role="alert">{{ ending.problem }}</b>
  </section>
</template>

<style scoped>
p > .soft {
  margin-left: 10px;
}
.drill {
  flex: none;
  display: grid;
  gap: 6px;
  padding-bottom: 6px;
  border-bottom: 2px solid var(--line);
}
.tell {
  display: block;
  font-size: 22px;
}
.aim {
  display: block;
}
@media (max-width: 700px) {
  .aim {
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.end {
  margin-left: auto;
}
.choices button {
  min-height: 56px;
}
</style>

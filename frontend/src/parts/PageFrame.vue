<script setup lang="ts">
import { computed, onBeforeUnmount, useTemplateRef, watch, watchEffect } from 'vue'
import type { AircraftUnits, Tachometer } from '@/api/schema'
import GoingBar from './GoingBar.vue'
import DisplaySwitches from './DisplaySwitches.vue'
import { useDisplay } from './display'
import { OWN_PAGES } from './pages'

/** A page away from the engine: the same ways on every page, what it is, the switches, and what went wrong in words. */
const props = defineProps<{
  /** What this page is. */
  title: string
  /** The aircraft that it is about, where it is about one. */
  aircraft?: { id: string; registration?: string }
  /** Whose gauges the figures of this page are of: that aircraft, once its answer is there. */
  gauges?: { units: AircraftUnits; tachometer: Tachometer | null }
  /** What went wrong, in words; empty where nothing did. */
  problem?: string
  /** Whether its answer is still on its way. */
  waiting?: boolean
}>()
const PAGES = [
  ['/', 'Aircraft'],
  ['/practice', 'Practice'],
  ['/records', 'Records'],
  ['/settings', 'Settings'],
  ['/help', 'Help'],
] as const
const own = computed(() => OWN_PAGES.map(([path, say]) => ({ to: `/aircraft/${props.aircraft?.id}${path}`, say })))
const ways = useTemplateRef<HTMLElement>('ways')
// on a narrow screen the ways are one row that moves: the one of this page is in sight
watch(ways, (row) =>
  row?.querySelector('.router-link-exact-active')?.scrollIntoView({ block: 'nearest', inline: 'center' }),
)
const again = () => location.reload()
const display = useDisplay()
watch(
  () => props.gauges,
  (of) => {
    display.aircraft = of?.units ?? null
    display.tachometer = of?.tachometer ?? null
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  display.aircraft = null
  display.tachometer = null
})
watchEffect(() => (document.title = `${props.title} · Jemmon`))
</script>

<template>
  <div class="page">
    <header>
      <nav aria-label="Pages">
        <RouterLink v-for="[to, say] in PAGES" :key="to" :to="to">{{ say }}</RouterLink>
      </nav>
      <DisplaySwitches />
    </header>
    <nav
      v-if="aircraft && !(problem && waiting)"
      ref="ways"
      class="own"
      :aria-label="`Pages of ${aircraft.registration ?? 'this aircraft'}`"
    >
      <b>{{ aircraft.registration ?? '…' }}</b>
      <RouterLink v-for="one in own" :key="one.to" :to="one.to">{{ one.say }}</RouterLink>
    </nav>
    <GoingBar />
    <main>
      <h1>{{ title }}</h1>
      <p v-if="problem" class="look" role="alert">
        <b>{{ problem }}</b>
      </p>
      <p v-if="problem && waiting">
        <button type="button" @click="again">Ask again</button>
        <RouterLink to="/" class="way">All aircraft</RouterLink>
      </p>
      <p v-else-if="waiting" class="soft" role="status">Looking it up …</p>
      <slot v-if="!(problem && waiting)" />
    </main>
  </div>
</template>

<style scoped>
header,
.own {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  margin-bottom: 12px;
}
header > nav {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-right: auto;
}
nav a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
  padding: 0 12px;
  border-radius: 10px;
  text-decoration: none;
}
.way {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
  padding: 0 16px;
}
nav a:hover {
  text-decoration: underline;
}
nav a.router-link-exact-active,
header nav a.router-link-active[href='/records'] {
  background: var(--key);
  color: var(--on-key);
}
.own {
  gap: 6px;
  border-bottom: 2px solid var(--line);
  padding-bottom: 6px;
}
.own a {
  padding: 0 8px;
  white-space: nowrap;
}
.own b {
  margin-right: 8px;
}
@media (max-width: 600px) {
  header > nav {
    flex: 1 0 100%;
    flex-wrap: nowrap;
    justify-content: space-between;
    gap: 0;
    overflow-x: auto;
  }
  header > nav a {
    padding: 0 5px;
  }
}
@media (max-width: 800px) {
  .own {
    flex-wrap: nowrap;
    overflow-x: auto;
  }
  .own b {
    display: none; /* the page's title names it */
  }
}
h1 {
  font-size: 22px; /* the page's sentence is larger: it is what one came for */
  font-weight: 400;
  line-height: 1.15;
  margin: 12px 0 6px;
}
</style>

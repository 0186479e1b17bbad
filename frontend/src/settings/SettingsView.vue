<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { useVoice, VOICES } from '@/flight/voice'
import PageFrame from '@/parts/PageFrame.vue'
import DeletedFlights from './DeletedFlights.vue'
import InstrumentAddress from './InstrumentAddress.vue'
import KeyLearning from './KeyLearning.vue'
import UnitChoices from './UnitChoices.vue'

/** What is set once: who flies from where, the units of the cockpit, the engine instrument; a copy of everything. */
const pilot = useLocalStorage('pilot', '')
const field = useLocalStorage('home_field', 'ZZLK')
const { voice } = useVoice()
</script>

<template>
  <PageFrame title="Settings">
    <div class="columns">
      <section aria-labelledby="who">
        <h2 id="who">Pilot and home field</h2>
        <form class="who" @submit.prevent>
          <label>Pilot <el-input v-model="pilot" placeholder="Your name" autocomplete="off" size="large" /></label>
          <label>
            Station asked for weather
            <el-input v-model="field" maxlength="4" autocomplete="off" size="large" />
          </label>
        </form>
        <p class="soft">Remembered on this device only.</p>
      </section>
      <section aria-labelledby="units">
        <h2 id="units">Units</h2>
        <UnitChoices />
      </section>
      <section aria-labelledby="voice">
        <h2 id="voice">Spoken by this device</h2>
        <p class="voices" role="group" aria-labelledby="voice">
          <button
            v-for="(say, name) in VOICES"
            :key="name"
            type="button"
            :aria-pressed="voice === name"
            @click="voice = name"
          >
            {{ say }}
          </button>
        </p>
        <p class="soft">By the browser's own voices; an alarm cuts off what is being said.</p>
      </section>
      <section aria-labelledby="keys">
        <h2 id="keys">Keys and pedals</h2>
        <KeyLearning />
      </section>
      <section aria-labelledby="instrument">
        <h2 id="instrument">Engine instrument</h2>
        <InstrumentAddress />
      </section>
      <section aria-labelledby="deleted">
        <h2 id="deleted">Deleted flights</h2>
        <DeletedFlights />
      </section>
      <section aria-labelledby="copy">
        <h2 id="copy">Copy of everything</h2>
        <p><a href="/api/flights.zip" download class="whole">Save all flights as a file</a></p>
      </section>
    </div>
  </PageFrame>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(440px, 100%), 1fr));
  gap: 8px 48px;
}
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
}
.voices {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
h2 {
  font-size: 22px;
  margin: 20px 0 10px;
}
.whole {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
}
</style>

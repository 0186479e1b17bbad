<script setup lang="ts">
import { KEYS } from '@/flight/useKeys'
import PageFrame from '@/parts/PageFrame.vue'

/** One page of help: the first flight, what the words and marks mean, the keys, and what Jemmon is not. */
const WORDS: [string, string][] = [
  ['Within', 'The figure is within the limit of this aircraft’s profile. It is no permission to fly.'],
  ['Look', 'Something is unusual: read why, and check again or ask.'],
  ['Stop', 'A limit is passed, or something is dangerous. The large button does not lead on from here.'],
  ['Incomplete', 'A part of the check is missing, for example one magneto.'],
  ['Unknown', 'It cannot be judged from what was seen; what is missing is named.'],
  ['Unexplained drop', 'RPM fell and came back, and the data do not say why: type the figures, or check again.'],
  ['Typed', 'The figure was read off by the pilot, not measured.'],
  ['By your word', 'Data could have shown it and did not: it is ticked because you said so.'],
  ['±', 'By so much the figure may be off; in our tests the truth lay inside more than nine times in ten.'],
  ['Killer item', 'Left out, it may cost the aircraft. It is read again after an interruption.'],
  ['Flow', 'A movement of the hands over the panel, done first and then verified by the list.'],
  ['Put back', 'A temporary setting (pump, heat, one magneto, ground power), shown until it is as before.'],
  ['Run-up', 'The check of magnetos, heat, propeller, electrics and idle before take-off.'],
  ['Burn-off', 'Running fast and lean for half a minute, so that a fouled plug clears itself.'],
  ['Rich of peak, lean of peak', 'On which side of the hottest exhaust the mixture is; °F or °C away from it.'],
  ['Offset', 'How far the exhaust is from its peak.'],
  ['Detent', 'A notch of the lever that stands for one power setting.'],
  ['Density altitude', 'The height in the standard atmosphere that has today’s air density.'],
]
</script>

<template>
  <PageFrame title="Help">
    <section aria-labelledby="first">
      <h2 id="first">The first flight</h2>
      <ol>
        <li>Choose an aircraft on the first page, and “Practise on the simulated engine”.</li>
        <li>Do what the large line says with the levers beside it. The large button, or Space, says “done”.</li>
        <li>A temporary setting is shown in the strip below until it is put back.</li>
        <li>A check is judged when you have done it: its figure, its limit, one word, why, and what next.</li>
        <li>“Back” takes the last step back. “Leave” leaves the flight going on, or ends it.</li>
      </ol>
      <p>
        Without data from the engine choose “Begin by hand”: you read the needles and type the figures that matter. With
        an instrument on the network name its address under <RouterLink to="/settings">Settings</RouterLink>.
      </p>
    </section>
    <section aria-labelledby="words">
      <h2 id="words">What the words mean</h2>
      <dl>
        <template v-for="[word, means] in WORDS" :key="word">
          <dt>{{ word }}</dt>
          <dd>{{ means }}</dd>
        </template>
      </dl>
    </section>
    <section aria-labelledby="keys">
      <h2 id="keys">Keys in a flight</h2>
      <dl>
        <template v-for="[key, does] in KEYS" :key="key">
          <dt>{{ key }}</dt>
          <dd>{{ does }}</dd>
        </template>
      </dl>
    </section>
    <section aria-labelledby="not">
      <h2 id="not">What Jemmon is not</h2>
      <p>
        It is not certified equipment. It moves no lever and looks at no sky. The approved flight manual, local rules,
        an instructor and a licensed mechanic decide. The limits of the aircraft that come with it are invented.
      </p>
      <p class="look">
        <b>A propeller may turn at any time:</b> a magneto may be live with its switch off. Carbon monoxide has no
        smell. Fuel in the intake burns: a fire guard stands by at a start.
      </p>
    </section>
  </PageFrame>
</template>

<style scoped>
h2 {
  font-size: 22px;
  margin: 24px 0 8px;
}
dl {
  display: grid;
  grid-template-columns: minmax(120px, 220px) minmax(0, 70ch);
  gap: 6px 20px;
  margin: 0;
}
dt {
  font-weight: 700;
}
dd {
  margin: 0;
}
@media (max-width: 600px) {
  dl {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
  dd {
    margin-bottom: 12px;
  }
}
p {
  max-width: 78ch;
}
</style>

<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'

import { api } from '../../api/client'
import type { Band, HandOverWalk } from '../../api/types'
import { farAway } from '../../shared/words'
import { HandOverList, useBench, useHome, useOfSetup } from '../bench'

/** A walk through all rooms with a phone in hand: where it is handed over too late or too soon, and what to set. */
const home = useHome()
const bench = useBench()
/** The band that the phone is held to; none when it takes the best of each device. */
const band = ref<Band | null>(null)
const bands: { title: string; value: Band | null }[] = [
  { title: 'takes the best band of each device', value: null },
  { title: 'keeps to 2.4 GHz', value: '2.4' },
  { title: 'keeps to 5 GHz', value: '5' },
  { title: 'keeps to 6 GHz', value: '6' },
]
const walk = useOfSetup<HandOverWalk>(
  (setup) =>
    api.POST('/api/homes/{home}/setups/{setup}/hand-over-walk', {
      params: { path: { home: home.id, setup } },
      body: { ask: { ...bench.ask, band: band.value } },
    }),
  () => band.value,
)
// One walk must not stand under the name of another.
watch(band, () => (walk.value = undefined))
// While it is open, the map shows the walk.
watch(walk, (now) => (bench.walk = now))
onBeforeUnmount(() => (bench.walk = undefined))
const units = computed(() => home.view.value?.home.units ?? 'm')
</script>

<template>
  <div class="walk">
    <section aria-label="The walk">
      <h3>A walk through all rooms</h3>
      <v-select v-model="band" :items="bands" label="The phone" />
      <p v-if="!walk" class="small quiet">Walking …</p>
      <p v-else-if="!walk.stretches.length" class="small">
        One device alone serves on these bands: nobody is handed over.
      </p>
      <template v-else>
        <p class="small quiet">
          {{ farAway(walk.length_m, units) }} from room to room, {{ walk.changes.length }} hand-over{{
            walk.changes.length === 1 ? '' : 's'
          }}
          predicted. One way: a phone that comes from the other side may cling elsewhere.
        </p>
        <ul class="small">
          <li v-for="own in walk.told" :key="own">{{ own }}</li>
        </ul>
        <p class="key small" aria-hidden="true">
          <svg width="34" height="8"><path d="M1 4h32" class="well" /></svg> as it should
          <svg width="34" height="8"><path d="M1 4h32" class="too_sticky" /></svg> too sticky
          <svg width="34" height="8"><path d="M1 4h32" class="too_eager" /></svg> too eager
        </p>
      </template>
    </section>
    <HandOverList />
  </div>
</template>

<style scoped>
.walk {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(340px, 100%), 1fr));
  gap: 8px 28px;
  align-items: start;
}

h3,
p {
  margin: 0;
}

h3 {
  font-size: 1rem;
}

ul {
  margin: 4px 0;
  padding-left: 18px;
  display: grid;
  gap: 4px;
}

.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}

.key path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2px;
}

.key .too_sticky {
  stroke: var(--comb);
  stroke-width: 5px;
}

.key .too_eager {
  stroke: var(--comb);
  stroke-width: 5px;
  stroke-dasharray: 3 4;
}
</style>

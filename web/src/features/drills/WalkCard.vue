<script setup lang="ts">
import { computed } from 'vue'

import { api } from '../../api/client'
import type { HandOverWalk } from '../../api/types'
import { when } from '../../shared/words'
import { useBench, useHome, useOfSetup } from '../bench'

/** A walk through the rooms with a call held: what hand-over will do, and the walks there were. */
const home = useHome()
const bench = useBench()
const walk = useOfSetup<HandOverWalk>((setup) =>
  api.POST('/api/homes/{home}/setups/{setup}/hand-over-walk', {
    params: { path: { home: home.id, setup } },
    body: { ask: bench.ask },
  }),
)
const walked = computed(
  () =>
    home.view.value?.rounds.filter(
      (own) => own.round.setup_id === bench.setupId && own.round.purpose === 'hand_over_walk' && own.runs > 0,
    ) ?? [],
)
const rounds = { name: 'rounds', params: { home: home.id } }
</script>

<template>
  <li v-if="walk?.stretches.length" class="walk">
    <h2>Walk through the rooms with a call held</h2>
    <p class="small">
      {{ walk.changes.length }} hand-over{{ walk.changes.length === 1 ? '' : 's' }} predicted on the way.
    </p>
    <p v-for="told in walk.told.slice(0, 3)" :key="told" class="small">{{ told }}</p>
    <p v-for="own in walked" :key="own.round.id" class="small">
      <router-link :to="{ ...rounds, params: { ...rounds.params, round: own.round.id } }">
        walked {{ when(own.round.begun) }}{{ own.made_up ? ', made up' : '' }}
      </router-link>
    </p>
    <div>
      <router-link class="small" :to="{ ...rounds, query: { begin: 'hand_over_walk' } }">
        Begin such a walk …
      </router-link>
    </div>
  </li>
</template>

<style scoped>
h2 {
  margin: 0;
  font-size: 1.05rem;
}

p {
  margin: 0;
}

a {
  color: inherit;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import { api } from '../../api/client'
import type { HandOverAt } from '../../api/types'
import { useBench } from './useBench'
import { useHome } from './useHome'
import { useOfSetup } from './useOfSetup'

/** Where each radio should hand a phone over: computed from the house, the setup and what readings taught. */
const home = useHome()
const bench = useBench()
const list = useOfSetup<HandOverAt[]>((setup) =>
  api.POST('/api/homes/{home}/setups/{setup}/hand-overs', {
    params: { path: { home: home.id, setup } },
    body: { ask: bench.ask },
  }),
)
const setup = computed(() => home.view.value?.home.setups.find((own) => own.id === bench.setupId))

async function take(own: HandOverAt) {
  const now = setup.value
  if (!now) return
  const devices = now.devices.map((device) =>
    device.id === own.device_id
      ? {
          ...device,
          radios: device.radios.map((radio, index) =>
            index === own.radio ? { ...radio, hand_over_dbm: own.proposed_dbm } : radio,
          ),
        }
      : device,
  )
  await home.change((header) =>
    api.PUT('/api/homes/{home}/setups/{setup}', {
      params: { path: { home: home.id, setup: now.id }, header },
      body: { ...now, devices },
    }),
  )
}
</script>

<template>
  <section v-if="list?.length" aria-label="Hand-over">
    <h3>Hand-over, as a phone walks</h3>
    <p class="small quiet">Band by band, as for things that keep to one.</p>
    <ul class="small">
      <li v-for="own in list" :key="`${own.device_id} ${own.radio}`">
        {{ own.told }}
        <button v-if="own.worth_setting" type="button" class="text" @click="take(own)">Plan it so</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3,
p {
  margin: 0;
}

h3 {
  font-size: 1rem;
}

ul {
  margin: 2px 0 0;
  padding-left: 18px;
  display: grid;
  gap: 4px;
}
</style>

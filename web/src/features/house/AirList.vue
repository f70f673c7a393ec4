<script setup lang="ts">
import { v4 as newId } from 'uuid'
import { api } from '../../api/client'
import type { Band, Neighbour } from '../../api/types'
import NumberField from '../../shared/NumberField.vue'
import { useHome, useHomeDraft } from '../bench'

const home = useHome()
const bands: { title: string; value: Band }[] = [
  { title: '2.4 GHz', value: '2.4' },
  { title: '5 GHz', value: '5' },
  { title: '6 GHz', value: '6' },
]

const draft = useHomeDraft<Neighbour[]>(home, {
  name: 'air',
  part: (view) => view.home.air ?? [],
  send: (air, header) =>
    api.PUT('/api/homes/{home}/air', { params: { path: { home: home.id }, header }, body: { air } }),
})
const air = draft.edit

function add() {
  air.value?.push({
    id: newId(),
    band: '2.4',
    channel: 6,
    width_mhz: 20,
    signal_dbm: -70,
    busy_part: 0.1,
  })
}
</script>

<template>
  <details v-if="air" class="folded">
    <summary>
      Neighbours’ networks heard here ({{ air.length }})
      <span v-if="air.length" class="small quiet" role="status">{{ draft.state.value }}</span>
    </summary>
    <p class="small quiet">
      Only what sharing the air needs is kept: no names. The busy part is how much of the time it sends.
    </p>
    <fieldset v-for="(one, index) in air" :key="one.id" class="entry" :aria-label="`Neighbour ${index + 1}`">
      <v-select v-model="one.band" :items="bands" label="Band" />
      <NumberField
        :value="one.channel"
        of="count"
        label="Channel"
        @change="one.channel = Math.min(999, Math.max(0, Math.round($event)))"
      />
      <v-select v-model="one.width_mhz" :items="[20, 40, 80, 160, 320]" label="Width, MHz" />
      <NumberField
        :value="one.signal_dbm"
        of="signal"
        label="Signal, dBm"
        @change="one.signal_dbm = $event"
      />
      <NumberField
        :value="Math.round(one.busy_part * 100)"
        of="percent"
        label="Busy, %"
        @change="one.busy_part = $event / 100"
      />
      <v-btn
        size="small"
        variant="text"
        :aria-label="`Remove neighbour ${index + 1}`"
        @click="air!.splice(index, 1)"
      >
        Remove
      </v-btn>
    </fieldset>
    <v-btn size="small" @click="add">+ neighbour</v-btn>
  </details>
</template>

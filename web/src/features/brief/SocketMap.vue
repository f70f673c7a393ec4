<script setup lang="ts">
import { computed } from 'vue'

import type { HomeView } from '../../api/types'

/** Where the line enters, and which socket is where: as the lines of the house say it. */
const props = defineProps<{ view: HomeView }>()
const rooms = computed(() => new Map(props.view.drawing.rooms.map((room) => [room.room_id, room.name])))
const entries = computed(() => props.view.drawing.sockets.filter((own) => own.kind === 'line_entry'))
const sockets = computed(() => props.view.drawing.sockets.filter((own) => own.kind !== 'line_entry'))
const circuits = computed(() => {
  const all = new Map<string, string[]>()
  for (const own of sockets.value.filter((one) => one.kind === 'power')) {
    const name = own.circuit ?? 'circuit not said'
    all.set(name, [...(all.get(name) ?? []), rooms.value.get(own.room_id) ?? ''])
  }
  return [...all].map(([name, where]) => `${name}: ${[...new Set(where)].join(', ')}`)
})
const cabled = computed(() => sockets.value.filter((own) => own.kind !== 'power'))
const HOUSING = {
  open: '',
  metal_cabinet: ', in a metal cabinet',
  wood_cabinet: ', in a wooden cabinet',
} as const
</script>

<template>
  <div class="sockets small">
    <p>
      <template v-if="entries.length > 0">
        The line enters in
        {{ entries.map((own) => `${rooms.get(own.room_id)}${HOUSING[own.housing]}`).join(' and ') }}.
      </template>
      <template v-else>Where the line enters is not said.</template>
      <template v-if="circuits.length > 0"> Power circuits: {{ circuits.join('; ') }}.</template>
    </p>
    <table v-if="cabled.length > 0" class="sheet">
      <thead>
        <tr>
          <th scope="col">socket</th>
          <th scope="col">room</th>
          <th scope="col">ends in</th>
          <th scope="col">state</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(own, index) in cabled" :key="index">
          <td>{{ own.kind }} {{ own.label }}</td>
          <td>{{ rooms.get(own.room_id) }}</td>
          <td>{{ own.ends ?? 'not said' }}</td>
          <td>{{ own.state }}</td>
        </tr>
      </tbody>
    </table>
    <p class="quiet">
      Sockets are said in the lines of the
      <router-link :to="{ name: 'house' }">house</router-link>: “- network socket north called 3 ends Hall”,
      “sealed”, “dead”; “- line entry north in metal cabinet”.
    </p>
  </div>
</template>

<style scoped>
p {
  margin: 4px 0;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import { api } from '../../api/client'
import type { Evening, RoomPart } from '../../api/types'
import { speed } from '../../shared/words'
import { useBench, useHome, useOfSetup } from '../bench'

/** The busy evening: who takes what of the plan and of each channel's air while all of it overlaps. */
const home = useHome()
const bench = useBench()
const evening = useOfSetup<Evening>((setup) =>
  api.POST('/api/homes/{home}/setups/{setup}/evening', {
    params: { path: { home: home.id, setup } },
    body: { ask: bench.ask },
  }),
)

interface Bar {
  name: string
  /** What stands at its end. */
  told: string
  parts: RoomPart[]
  neighbours: number
  sum: number
}

const percent = (part: number) =>
  `${part > 0 && part < 0.1 ? (part * 100).toFixed(1) : Math.round(part * 100)} %`
const bars = computed<Bar[]>(() => {
  const own = evening.value
  if (!own) return []
  const ofPlan = (name: string, taken: Evening['plan_down']): Bar[] =>
    taken
      ? [
          {
            name,
            told: `${percent(taken.sum)} of ${speed(taken.gives_mbps)} Mb/s`,
            parts: taken.parts,
            neighbours: 0,
            sum: taken.sum,
          },
        ]
      : []
  return [
    ...ofPlan('Plan, download', own.plan_down),
    ...ofPlan('Plan, upload', own.plan_up),
    ...own.channels.map((channel) => ({
      ...channel,
      name: `Air, ${channel.name}`,
      told: `${percent(channel.sum)} of its time`,
    })),
  ]
})
/** A bar is whole at all there is; one of which more is asked is as long as what is asked. */
const widthOf = (part: number, bar: Bar) => `${(100 * part) / Math.max(1, bar.sum)}%`
</script>

<template>
  <section aria-label="Busy evening">
    <p v-if="!evening" class="quiet">Letting everybody do everything at once …</p>
    <p v-else-if="evening.rooms.length === 0" class="quiet">
      Nobody does anything yet: say who does what where under
      <router-link :to="{ name: 'brief' }">Brief</router-link>.
    </p>
    <template v-else>
      <p>
        <b>{{ evening.told }}</b>
      </p>
      <div v-for="bar in bars" :key="bar.name" class="bar">
        <span class="name">{{ bar.name }}</span>
        <span class="told">{{ bar.told }}</span>
        <div class="whole" :class="{ over: bar.sum > 1 }" role="img" :aria-label="`${bar.name}: ${bar.told}`">
          <span
            v-for="part in bar.parts"
            :key="part.room_id"
            :style="{ width: widthOf(part.part, bar) }"
            :title="`${part.name}: ${percent(part.part)}`"
            :class="{ chosen: part.room_id === bench.roomId }"
            @click="bench.roomId = part.room_id"
          >
            {{ part.part / Math.max(1, bar.sum) > 0.05 ? part.name : '' }}
          </span>
          <span
            v-if="bar.neighbours > 0"
            class="neighbours"
            :style="{ width: widthOf(bar.neighbours, bar) }"
            :title="`neighbours: ${percent(bar.neighbours)}`"
          >
            {{ bar.neighbours / Math.max(1, bar.sum) > 0.07 ? 'neighbours' : '' }}
          </span>
          <i v-if="bar.sum > 1" :style="{ left: `${100 / bar.sum}%` }" title="all there is" />
        </div>
      </div>
      <table>
        <thead>
          <tr>
            <th scope="col">Room</th>
            <th scope="col" class="figure">asks down</th>
            <th scope="col" class="figure">up, Mb/s</th>
            <th scope="col">served by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="room in evening.rooms" :key="room.room_id">
            <td>{{ room.name }}</td>
            <td class="figure">{{ speed(room.down_mbps) }}</td>
            <td class="figure">{{ speed(room.up_mbps) }}</td>
            <td>{{ room.served_by_name || 'nothing reaches it' }}</td>
          </tr>
        </tbody>
      </table>
      <ul v-if="evening.frees.length" class="small">
        <li v-for="own in evening.frees" :key="own.room_id + own.channel">
          A cable to {{ own.what }} in {{ own.name }} would free up to {{ percent(own.part) }} of the air on
          {{ own.channel }}.
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
section {
  font-size: 0.88rem;
  display: grid;
  gap: 8px;
}

.bar {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 1px 12px;
  font-size: 0.84rem;
}

.told {
  font-variant-numeric: tabular-nums;
}

.whole {
  grid-column: 1 / -1;
  position: relative;
  display: flex;
  height: 22px;
  background: #efe9da;
  border: 1px solid var(--quiet);
}

.whole.over {
  border-color: var(--comb);
}

.whole span {
  background: var(--straw);
  border-right: 1px solid var(--ink);
  font-size: 0.74rem;
  line-height: 20px;
  padding-left: 3px;
  overflow: hidden;
  white-space: nowrap;
  cursor: pointer;
  min-width: 0;
}

.whole span:nth-child(even) {
  background: #fff3d6;
}

.whole span.chosen {
  outline: 3px solid var(--comb);
  outline-offset: -3px;
}

.whole .neighbours {
  background: repeating-linear-gradient(45deg, #cfcabd 0 4px, #efe9da 4px 8px);
  cursor: default;
}

.whole i {
  position: absolute;
  top: -3px;
  bottom: -3px;
  border-left: 3px solid var(--comb);
}

table {
  border-collapse: collapse;
  font-size: 0.84rem;
  justify-self: start;
}

td,
th {
  text-align: left;
  padding: 2px 14px 2px 0;
}

th {
  color: var(--quiet);
  font-weight: 600;
}

.figure {
  text-align: right;
  font-variant-numeric: tabular-nums;
}

ul {
  list-style: none;
  padding: 0;
}
</style>

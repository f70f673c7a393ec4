<script setup lang="ts">
import { api } from '../../api/client'
import type { SeriesView } from '../../api/types'
import { speed, verdictWord } from '../../shared/words'
import { useBench, useHome, useOfSetup } from '../bench'

/** The setups of one series side by side, room by room. */
const home = useHome()
const bench = useBench()
const series = useOfSetup<SeriesView>((setup) =>
  api.POST('/api/homes/{home}/setups/{setup}/series', {
    params: { path: { home: home.id, setup } },
    body: { ask: bench.ask },
  }),
)
</script>

<template>
  <section aria-label="Series">
    <p v-if="!series" class="quiet">Putting them side by side …</p>
    <template v-else>
      <p class="small">
        <b>{{ series.name }}</b>: to be tested at the same spots, with the same device. Predicted download in
        Mb/s; measured medians below it.
      </p>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th scope="col">Room</th>
              <th v-for="own in series.setups" :key="own.id" scope="col" class="figure">
                <button
                  type="button"
                  :aria-pressed="own.id === bench.setupId"
                  @click="bench.setupId = own.id"
                >
                  <b>{{ own.letter }}</b> {{ own.name }}
                </button>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="room in series.rooms"
              :key="room.room_id"
              :class="{ chosen: room.room_id === bench.roomId }"
            >
              <th scope="row">{{ room.name }}</th>
              <td v-for="(cell, index) in room.cells" :key="index" class="figure">
                {{ speed(cell.predicted_mbps) }}
                <span v-if="cell.verdict && cell.verdict !== 'met'" class="small">{{
                  verdictWord[cell.verdict]
                }}</span>
                <span v-if="cell.measured_mbps != null" class="small measured">
                  {{ speed(cell.measured_mbps) }} {{ cell.made_up ? 'made up' : 'measured' }}
                </span>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}

.wide {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
  font-size: 0.84rem;
}

th,
td {
  padding: 3px 18px 3px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  font-weight: 400;
  vertical-align: top;
}

.figure {
  text-align: right;
  font-variant-numeric: tabular-nums;
}

.chosen {
  background: var(--select);
}

[aria-pressed='true'] {
  border-bottom: 2px solid var(--comb);
}

.measured {
  display: block;
}
</style>

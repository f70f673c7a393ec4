<script setup lang="ts">
import { computed } from 'vue'

import type { MarkRow, MarkShown, RoundView } from '../../api/types'
import RangeChart from '../../shared/RangeChart.vue'
import { heardWords, markTitle } from '../../shared/marks'
import { speed, verdictWord } from '../../shared/words'

const props = defineProps<{ open: RoundView }>()
const emit = defineEmits<{ look: []; beside: [round: string] }>()

const units = computed(() => props.open.tested.home.units)
const purpose = computed(() => props.open.round.purpose)
const range = computed(() => purpose.value === 'range_walk')
const route = computed(() => purpose.value === 'route_walk')
const trial = computed(() => ['outlet_trial', 'placement_trial'].includes(purpose.value ?? ''))
const weak = computed(() => props.open.spots[0]?.name ?? 'the room')
const best = (row: MarkShown) =>
  props.open.best != null && props.open.best.name === row.mark.name && !row.mark.beside_node
const carried = computed(() => purpose.value === 'placement_trial')
const title = (row: MarkRow) => markTitle(row, units.value, carried.value ? weak.value : undefined)
const figures = (row?: MarkRow | null) =>
  row?.summary
    ? row.summary.without_connection === row.summary.runs
      ? 'no connection'
      : `${speed(row.summary.down_mbps.median)} / ${speed(row.summary.up_mbps.median)}`
    : '–'
const delay = (row: MarkRow) =>
  row.summary?.idle_ms
    ? `${row.summary.idle_ms.median.toFixed(0)} / ${row.summary.loaded_ms?.median.toFixed(0) ?? '–'}`
    : '–'
const statusWord = { good: 'good', fair: 'fair', poor: 'poor', lost: 'no link' }
const beside = computed(() => props.open.beside)
const day = (at: string) =>
  new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
const besides = computed(() =>
  props.open.besides.map((own) => ({ value: own.round_id, title: `${own.setup}, ${day(own.begun)}` })),
)
</script>

<template>
  <RangeChart v-if="range" :marks="open.marks" :drop-out="open.drop_out" :units="units" />
  <p v-if="open.marks.length === 0" class="quiet">
    Nothing yet. Pair a phone: it asks for the mark and tests or takes down what is read there.
  </p>
  <table v-else class="sheet">
    <thead>
      <tr>
        <th scope="col">mark</th>
        <th scope="col" class="number">runs</th>
        <th v-if="!route" scope="col" class="number">median down / up</th>
        <th v-if="!route" scope="col" class="number">idle / load ms</th>
        <th scope="col">heard</th>
        <th v-if="trial" scope="col">the kit says</th>
        <th v-if="trial" scope="col">need of {{ weak }}</th>
        <th v-if="beside" scope="col" class="number">beside</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in open.marks" :key="title(row)" :class="{ chosen: best(row) }">
        <th scope="row">
          {{ title(row) }}
          <small v-if="best(row)" class="best">
            {{ purpose === 'outlet_trial' ? 'the best outlet' : 'most in the weak room' }}
          </small>
        </th>
        <td class="number">
          <button
            type="button"
            class="look"
            :aria-label="`${row.runs} run${row.runs === 1 ? '' : 's'} at ${title(row)}`"
            @click="emit('look')"
          >
            {{ row.runs }}
          </button>
        </td>
        <td v-if="!route" class="number strong">{{ figures(row) }}</td>
        <td v-if="!route" class="number">{{ delay(row) }}</td>
        <td>{{ heardWords(row) }}</td>
        <td v-if="trial">
          {{ row.kit_status ? statusWord[row.kit_status] : '–' }}
          <small v-if="row.against_status" class="against">{{ row.against_status }}</small>
        </td>
        <td v-if="trial" :class="row.verdict ?? 'quiet'">
          {{ row.verdict && !row.mark.beside_node ? verdictWord[row.verdict] : '–' }}
        </td>
        <td v-if="beside" class="number">{{ route ? heardWords(row.other) : figures(row.other) }}</td>
      </tr>
    </tbody>
  </table>
  <div v-if="beside" class="beside">
    <v-select
      :model-value="beside.round_id"
      :items="besides"
      label="Beside it, the same marks in"
      @update:model-value="emit('beside', $event)"
    />
    <p v-if="beside.otherwise" class="small quiet">Not like for like: {{ beside.otherwise }}.</p>
  </div>
  <p class="small quiet">
    Speeds in Mb/s. Signal and link rate explain, they are no speed.
    <template v-if="carried">
      What hears best is not always what serves best: the place is chosen by what {{ weak }} gets.
    </template>
    <template v-if="purpose === 'outlet_trial'">
      Adapters straight into the wall, no strips; nothing in the fixed wiring is opened. Its circuits are for
      a licensed electrician.
    </template>
  </p>
</template>

<style scoped>
.beside {
  display: flex;
  gap: 12px;
  align-items: center;
  max-width: 620px;
  margin-top: 8px;
}

.look {
  text-decoration: underline;
  min-width: 28px;
  min-height: 28px;
}

.best {
  display: block;
  color: var(--leaf);
  font-weight: 400;
}

.against {
  display: block;
  color: var(--comb);
  max-width: 220px;
}

tr.chosen {
  background: var(--select);
}

.strong {
  font-weight: 700;
}
</style>

<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { CompareView, SidePair } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { percent, speed, verdictWord } from '../../shared/words'
import { useBench, useHome } from '../bench'

const home = useHome()
const bench = useBench()
const reference = ref<string>()
const result = shallowRef<CompareView>()

const setups = computed(() => home.view.value?.home.setups ?? [])
const items = computed(() =>
  setups.value.map((own) => ({ title: `${own.letter} ${own.name}`, value: own.id })),
)
const other = computed(() => setups.value.find((own) => own.id === bench.setupId))
const against = computed(() => setups.value.find((own) => own.id === reference.value))

/** Against the first setup that is not the one on the bench, until another is chosen. */
watch(
  [setups, () => bench.setupId],
  () => {
    if (reference.value && reference.value !== bench.setupId && against.value) return
    reference.value = setups.value.find((own) => own.id !== bench.setupId)?.id
  },
  { immediate: true },
)

const compare = useLatest(async () => {
  if (!reference.value || !bench.setupId || reference.value === bench.setupId) {
    result.value = undefined
    return
  }
  try {
    result.value = await answer(
      api.GET('/api/homes/{home}/compare', {
        params: {
          path: { home: home.id },
          query: {
            reference: reference.value,
            other: bench.setupId,
            kind: bench.kind,
            client: bench.client,
            situation: bench.situation,
          },
        },
      }),
    )
  } catch (error) {
    home.fail(error)
  }
})
watch(
  () => [home.view.value, reference.value, bench.setupId, bench.kind, bench.client, bench.situation],
  () => compare(undefined),
  { immediate: true },
)

const sides = (pair: SidePair) => [pair.reference, pair.other]

/** The change that is shown: measured when both were measured, else predicted. */
function change(pair: SidePair): { value: number | null | undefined; basis: string } {
  if (pair.measured_change_percent != null)
    return { value: pair.measured_change_percent, basis: pair.other.made_up ? 'made up' : 'measured' }
  if (pair.reference.measured && pair.other.measured) {
    if (pair.reference.made_up !== pair.other.made_up) return { value: null, basis: 'one is made up' }
    return { value: null, basis: pair.spot_id ? 'from nothing' : 'at other spots' }
  }
  return {
    value: pair.predicted_change_percent,
    basis: pair.predicted_change_percent == null ? '' : 'predicted',
  }
}

const score = (own: CompareView['reference_score']) => {
  const tested = own.measured
    ? `; measured ${own.measured_met} of ${own.measured} tested`
    : '; nothing measured'
  return `${own.predicted_met} of ${own.rooms_with_need} rooms’ needs met by prediction${tested}`
}
</script>

<template>
  <div class="page">
    <header>
      <h1>Which setup, room by room</h1>
      <div class="choices">
        <v-select v-model="reference" :items="items" label="Counted from" :disabled="setups.length < 2" />
        <v-select
          v-model="bench.setupId"
          :items="items"
          label="Set against it"
          :disabled="setups.length < 2"
        />
        <v-select
          v-model="bench.kind"
          :items="[
            { title: 'internet', value: 'internet' },
            { title: 'local', value: 'local' },
          ]"
          label="Test to"
        />
      </div>
    </header>
    <p v-if="setups.length < 2" class="quiet">
      Two setups are needed: make another with “+” at the top, then both stand here side by side.
    </p>
    <template v-if="result && other && against">
      <ul v-if="result.warnings.length" aria-label="Not like for like">
        <li v-for="warning in result.warnings" :key="warning" class="note small">{{ warning }}</li>
      </ul>
      <p class="small scores">
        <b>{{ against.letter }}</b> {{ score(result.reference_score) }}. <b>{{ other.letter }}</b>
        {{ score(result.other_score) }}.
      </p>
      <table class="sheet">
        <thead>
          <tr>
            <th rowspan="2" scope="col">room and need, Mb/s down / up</th>
            <th colspan="3" scope="colgroup" class="group">{{ against.letter }} {{ against.name }}</th>
            <th colspan="3" scope="colgroup" class="group">{{ other.letter }} {{ other.name }}</th>
            <th rowspan="2" scope="col" class="number">change of down</th>
          </tr>
          <tr>
            <template v-for="side in 2" :key="side">
              <th scope="col" class="number">predicted</th>
              <th scope="col" class="number">measured</th>
              <th scope="col">need</th>
            </template>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="pair in result.rooms"
            :key="pair.room_id"
            :class="{ chosen: pair.room_id === bench.roomId }"
            @click="bench.roomId = pair.room_id"
          >
            <th scope="row">
              {{ pair.name }}{{ pair.spot_name ? `, ${pair.spot_name}` : '' }}
              <span>{{
                pair.need ? `${speed(pair.need.down_mbps)} / ${speed(pair.need.up_mbps)}` : 'no need noted'
              }}</span>
            </th>
            <template v-for="(side, index) in sides(pair)" :key="index">
              <td class="number">
                {{ speed(side.predicted.down.middle) }}
                <span>{{ speed(side.predicted.down.poor) }}–{{ speed(side.predicted.down.good) }}</span>
              </td>
              <td class="number strong">
                {{ speed(side.measured?.down_mbps.median) }}
                <span v-if="side.measured">
                  {{ speed(side.measured.down_mbps.lower_quartile) }}–{{
                    speed(side.measured.down_mbps.upper_quartile)
                  }}
                </span>
              </td>
              <td :class="side.measured_verdict ?? side.predicted_verdict ?? 'quiet'">
                <template v-if="side.measured_verdict">{{ verdictWord[side.measured_verdict] }}</template>
                <template v-else-if="side.predicted_verdict">{{
                  verdictWord[side.predicted_verdict]
                }}</template>
                <template v-else>–</template>
                <span v-if="pair.need">{{
                  side.measured_verdict ? (side.made_up ? 'made up' : 'measured') : 'predicted'
                }}</span>
              </td>
            </template>
            <td class="number strong">
              {{ percent(change(pair).value) }}
              <span>{{ change(pair).basis }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="small quiet">
        Big figures: predicted middle and measured median, Mb/s down, both at one spot of the room. Small
        ones: likely range 10–90 %, and the middle half of the runs. Back-to-back runs are not independent:
        alternate setups where that is cheap.
      </p>
    </template>
  </div>
</template>

<style scoped>
header {
  display: grid;
  gap: 12px;
}

.choices {
  display: grid;
  grid-template-columns: 1.2fr 1.2fr 1fr;
  gap: 8px;
}

ul {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 4px;
  margin-top: 10px;
}

.scores {
  margin: 10px 0 6px;
}

.sheet td,
.sheet th {
  padding: 4px 8px;
  vertical-align: top;
  font-size: 0.9rem;
}

.sheet td {
  white-space: nowrap;
}

.group {
  border-left: 1px solid var(--line);
  color: var(--ink) !important;
  font-weight: 600 !important;
  font-size: 0.88rem !important;
}

tbody td:nth-child(2),
tbody td:nth-child(5),
tbody td:nth-child(8) {
  border-left: 1px solid var(--line);
}

th[scope='row'] {
  color: var(--ink);
  font-weight: 600;
  font-size: 0.88rem;
}

td span,
th span {
  display: block;
  font-size: 0.72rem;
  font-weight: 400;
  color: var(--quiet);
}

.strong {
  font-weight: 700;
}

tr.chosen {
  background: var(--select);
}

@media (max-width: 900px) {
  header {
    flex-direction: column;
    align-items: stretch;
  }

  .choices {
    min-width: 0;
    grid-template-columns: 1fr;
  }

  .page {
    overflow-x: auto;
  }
}
</style>

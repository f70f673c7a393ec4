<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { ComparedCell, SideBySide, Measure, ShownBy, TestKind, Weights } from '../../api/types'
import { isMarked } from '../../shared/marks'
import { useLatest } from '../../shared/useLatest'
import { speed, verdictWord, when } from '../../shared/words'
import { useBench, useHome } from '../bench'
import ChoiceCard from './ChoiceCard.vue'
import CoveragePair from './CoveragePair.vue'
import RunStrip from './RunStrip.vue'
import SlopeLines from './SlopeLines.vue'
import TurnsTrial from './TurnsTrial.vue'
import WalkLines from './WalkLines.vue'

const home = useHome()
const bench = useBench()
const result = shallowRef<SideBySide>()
const left = ref<string[]>([])
const reference = ref<string>()
const measure = ref<Measure>('down')
const shown = ref<ShownBy>('median')
const share = ref(false)
const lit = ref(false)
const weights = useLocalStorage<Weights>('busy-hen weights', { price: 1, speed: 1, steadiness: 1, ease: 1 })

const setups = computed(() => home.view.value?.home.setups.filter((own) => !own.archived) ?? [])
/** Rounds that stand beside the setups, each alone. */
const more = ref<string[]>([])
const rounds = computed(() =>
  (home.view.value?.rounds ?? []).filter(
    (own) =>
      own.runs > 0 &&
      own.round.kind === bench.kind &&
      !isMarked(own.round.purpose ?? 'rooms') &&
      letterOf(own.round.setup_id),
  ),
)
const letterOf = (id: string) => setups.value.find((own) => own.id === id)?.letter
const roundItems = computed(() =>
  rounds.value
    .filter((own) => !more.value.includes(own.round.id))
    .map((own) => ({
      value: own.round.id,
      title: `${letterOf(own.round.setup_id)}, ${when(own.round.begun)}`,
    })),
)
interface Chosen {
  key: string
  setup_id: string
  round_id: string | null
}
const chosen = computed<Chosen[]>(() =>
  [
    ...setups.value
      .filter((own) => !left.value.includes(own.id))
      .map((own) => ({ key: own.id, setup_id: own.id, round_id: null })),
    ...rounds.value
      .filter((own) => more.value.includes(own.round.id))
      .map((own) => ({ key: own.round.id, setup_id: own.round.setup_id, round_id: own.round.id })),
  ].slice(0, 12),
)
const keyOf = (column: { setup_id: string; round_id?: string | null }) => column.round_id ?? column.setup_id

/** Against the first setup, which is mostly what was found, until another is chosen. */
watch(
  chosen,
  (now) => {
    if (!now.some((own) => own.key === reference.value)) reference.value = now[0]?.key
  },
  { immediate: true },
)

/** Whether what is told on the bench is that comparing failed: the next answer takes it away. */
let failed = false
const compare = useLatest(async () => {
  if (!reference.value || chosen.value.length === 0) {
    result.value = undefined
    return
  }
  try {
    result.value = await answer(
      api.POST('/api/homes/{home}/compare', {
        params: { path: { home: home.id } },
        body: {
          columns: chosen.value.map(({ setup_id, round_id }) => ({ setup_id, round_id })),
          reference: chosen.value.findIndex((own) => own.key === reference.value),
          kind: bench.kind,
          client: bench.client,
          situation: bench.situation,
          measure: measure.value,
          shown: shown.value,
          share_of_plan: share.value && bench.kind !== 'local' && measure.value === 'down',
          weights: weights.value,
        },
      }),
    )
    if (failed) home.problem.value = ''
    failed = false
  } catch (error) {
    failed = true
    home.fail(error)
  }
})
watch(
  () => [
    home.view.value,
    chosen.value,
    reference.value,
    bench.kind,
    bench.client,
    bench.situation,
    measure.value,
    shown.value,
    share.value,
    weights.value,
  ],
  () => compare(undefined),
  { immediate: true, deep: true },
)

function addRound(select: HTMLSelectElement) {
  if (select.value) more.value = [...more.value, select.value]
  select.value = ''
}

function toggle(id: string) {
  if (more.value.includes(id)) more.value = more.value.filter((own) => own !== id)
  else if (left.value.includes(id)) left.value = left.value.filter((own) => own !== id)
  else if (chosen.value.length > 1) left.value = [...left.value, id]
}

const referenceSetup = computed(() => chosen.value.find((own) => own.key === reference.value)?.setup_id)
const isDelay = computed(() => measure.value === 'idle' || measure.value === 'loaded')
const isShare = computed(() => share.value && bench.kind !== 'local' && measure.value === 'down')
const unit = computed(() => (isDelay.value ? 'ms' : isShare.value ? '% of the plan' : 'Mb/s'))
const needOf = (need: { down_mbps: number; up_mbps: number; latency_ms: number } | null | undefined) => {
  if (!need || isShare.value) return undefined
  return isDelay.value ? need.latency_ms : measure.value === 'up' ? need.up_mbps : need.down_mbps
}
/** One axis for all: by ratios, since that is how setups differ. */
const axis = computed(() => {
  const all = (result.value?.rows ?? []).flatMap((row) =>
    row.cells.flatMap((cell) => [...cell.values, ...(cell.values.length ? [] : cell.predicted)]),
  )
  const there = all.filter((value) => value > 0)
  const floor = isShare.value ? 0.005 : 0.5
  const low = Math.max(floor, Math.min(...there, Infinity) * 0.8)
  const high = Math.max(low * 4, Math.max(...there, 0) * 1.1)
  return (value: number) =>
    Math.min(1, Math.max(0, Math.log(Math.max(value, low) / low) / Math.log(high / low)))
})
const figure = (value: number | null | undefined) =>
  value == null ? '–' : isShare.value ? `${Math.round(value * 100)}` : speed(value)
const spoken = (cell: ComparedCell) =>
  cell.figures
    ? `${cell.values.length} runs, median ${figure(cell.figures.median)}, middle half ${figure(cell.figures.lower_quartile)} to ${figure(cell.figures.upper_quartile)}`
    : `predicted ${figure(cell.predicted[1])}`
const measures: { value: Measure; title: string }[] = [
  { value: 'down', title: 'Download' },
  { value: 'up', title: 'Upload' },
  { value: 'idle', title: 'Delay, idle' },
  { value: 'loaded', title: 'Delay, busy' },
]
const kinds = computed<{ value: TestKind; title: string }[]>(() => [
  { value: 'internet', title: 'Internet' },
  ...(home.view.value?.home.brief.second_line
    ? [{ value: 'second_line' as TestKind, title: 'Second line' }]
    : []),
  { value: 'local', title: 'Local' },
])
const values: { value: ShownBy; title: string }[] = [
  { value: 'median', title: 'Median' },
  { value: 'best', title: 'Best' },
  { value: 'mean', title: 'Mean' },
]
</script>

<template>
  <div class="page compare">
    <header>
      <h1>Which setup, room by room</h1>
      <div class="switches">
        <div role="group" aria-label="Test to">
          <button
            v-for="own in kinds"
            :key="own.value"
            type="button"
            :aria-pressed="bench.kind === own.value"
            @click="bench.kind = own.value"
          >
            {{ own.title }}
          </button>
        </div>
        <div role="group" aria-label="What is compared">
          <button
            v-for="own in measures"
            :key="own.value"
            type="button"
            :aria-pressed="measure === own.value"
            @click="measure = own.value"
          >
            {{ own.title }}
          </button>
        </div>
        <div role="group" aria-label="Shown of several runs">
          <button
            v-for="own in values"
            :key="own.value"
            type="button"
            :aria-pressed="shown === own.value"
            @click="shown = own.value"
          >
            {{ own.title }}
          </button>
        </div>
        <label v-if="bench.kind !== 'local' && measure === 'down'" class="share">
          <input v-model="share" type="checkbox" /> as a part of the plan
        </label>
      </div>
      <div
        v-if="setups.length > 1 || rounds.length > 1"
        class="picks"
        role="group"
        aria-label="Setups that are compared"
      >
        <label v-for="own in setups" :key="own.id">
          <input type="checkbox" :checked="!left.includes(own.id)" @change="toggle(own.id)" />
          {{ own.letter }} {{ own.name }}
        </label>
        <label v-for="id in more" :key="id">
          <input type="checkbox" checked @change="toggle(id)" />
          {{ letterOf(rounds.find((own) => own.round.id === id)?.round.setup_id ?? '') }},
          {{ when(rounds.find((own) => own.round.id === id)?.round.begun ?? '') }}
        </label>
        <select
          v-if="roundItems.length"
          aria-label="A round beside them"
          @change="addRound($event.target as HTMLSelectElement)"
        >
          <option value="">a round beside them …</option>
          <option v-for="own in roundItems" :key="own.value" :value="own.value">{{ own.title }}</option>
        </select>
      </div>
    </header>
    <p v-if="setups.length < 2 && rounds.length < 2" class="quiet">
      Two setups, or two rounds of one, are needed: make another setup with “+” at the top, then both stand
      here side by side.
    </p>
    <div v-if="result" class="body">
      <div class="table">
        <!-- Many columns scroll beside the names of the rooms. -->
        <div
          class="scrolls"
          role="region"
          aria-label="Rooms, setup by setup"
          :tabindex="result.columns.length > 4 ? 0 : undefined"
        >
          <table class="sheet" :style="{ '--columns': result.columns.length }">
            <thead>
              <tr>
                <th scope="col">room<br />need, {{ unit }}</th>
                <th v-for="column in result.columns" :key="keyOf(column)" scope="col" class="column">
                  <b>{{ column.letter }} {{ column.name }}</b>
                  <span v-if="column.made_up" class="made">made up by the stand-in</span>
                  <span v-if="column.begun">{{ when(column.begun) }} alone</span>
                  <span v-if="keyOf(column) === reference">the others are set against it</span>
                  <button v-else type="button" class="text" @click="reference = keyOf(column)">
                    set the others against it
                  </button>
                  <span v-if="column.whole" class="whole" :class="column.whole.call.kind">
                    all rooms: {{ column.whole.told }}
                  </span>
                  <span v-else-if="!column.conditions">nothing measured</span>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="row in result.rows"
                :key="row.spot_id"
                :class="{ chosen: row.room_id === bench.roomId }"
                @click="bench.roomId = row.room_id"
              >
                <th scope="row">
                  {{ row.name }}{{ row.spot_name ? `, ${row.spot_name}` : '' }}
                  <span>{{
                    row.need ? (needOf(row.need) == null ? '' : speed(needOf(row.need))) : 'no need'
                  }}</span>
                </th>
                <td v-for="(cell, index) in row.cells" :key="index">
                  <div class="cell" :data-letter="result.columns[index]!.letter">
                    <b :class="{ predicted: cell.shown == null }">{{
                      figure(cell.shown ?? cell.predicted[1])
                    }}</b>
                    <RunStrip :cell="cell" :need="needOf(row.need)" :place="axis" :label="spoken(cell)" />
                    <span class="told">
                      <i
                        v-if="row.need && !isDelay && !isShare"
                        :class="cell.verdict ?? cell.predicted_verdict"
                      >
                        {{ verdictWord[(cell.verdict ?? cell.predicted_verdict)!] }}
                      </i>
                      <em
                        v-if="cell.against"
                        :class="[cell.against.call.kind, { worse: cell.against.better === false }]"
                        :title="cell.against.told"
                      >
                        {{
                          cell.against.call.kind === 'beyond'
                            ? `× ${cell.against.ratio < 9.95 ? cell.against.ratio.toFixed(2) : cell.against.ratio > 500 ? 'from nothing' : cell.against.ratio.toFixed(0)}`
                            : cell.against.call.kind === 'not_shown'
                              ? 'not shown'
                              : 'can’t tell'
                        }}
                      </em>
                      <small v-else-if="cell.shown == null">predicted</small>
                      <small
                        v-if="cell.share_of_ceiling != null && measure === 'down' && !isShare"
                        title="Part of the most that can come through: the plan, or the router's port"
                        >{{ Math.round(cell.share_of_ceiling * 100) }} % of most</small
                      >
                    </span>
                  </div>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="small quiet key">
          Dots are runs, the bar their middle half, the stroke the median, the line its 95 % interval; dashed
          green is the need; copper, where nothing was measured, the likely range. “% of most” is the part of
          the most that can come through (the plan, or the router’s port) that arrives.
          <template v-if="bench.roomId">
            <template
              v-for="row in result.rows.filter((own) => own.room_id === bench.roomId)"
              :key="row.spot_id"
            >
              <template v-for="(cell, index) in row.cells" :key="index">
                <template v-if="cell.against">
                  <br />{{ row.name }}, {{ result.columns[index]!.letter }}: {{ cell.against.told }}.
                </template>
              </template>
            </template>
          </template>
        </p>
        <p v-if="result.runs_for_a_fifth" class="small quiet">
          For a difference of a fifth to show in one room of these, {{ result.runs_for_a_fifth }} runs a spot
          are needed; a room alone is corrected for how many are looked at (Holm).
        </p>
        <ul v-if="result.unlike.length" aria-label="Not like for like">
          <li v-for="own in result.unlike" :key="own.told" class="note small">
            {{ own.told }}
            <button v-if="own.share_helps" type="button" class="text" @click="share = true">
              Compare parts of the plan
            </button>
          </li>
        </ul>
        <ul v-if="result.findings.length" aria-label="What the readings show">
          <li v-for="own in result.findings" :key="own.what" class="note small">
            <b>{{ own.what }}</b> {{ own.next }}
          </li>
        </ul>
      </div>
      <aside>
        <ChoiceCard v-model:weights="weights" :result="result" />
        <figure v-if="result.columns.length > 1">
          <figcaption class="small">
            <b>{{ measures.find((own) => own.value === measure)?.title }}</b>, {{ unit }}: a line a room
          </figcaption>
          <SlopeLines
            :columns="result.columns"
            :rows="result.rows"
            :place="axis"
            :chosen="bench.roomId"
            :up="!isDelay"
            @choose="(room) => (bench.roomId = room)"
          />
        </figure>
        <TurnsTrial
          v-if="result.columns.length > 1 && referenceSetup"
          :result="result"
          :reference="referenceSetup"
          @changed="compare(undefined)"
        />
      </aside>
    </div>
    <WalkLines
      v-for="own in result?.walks ?? []"
      :key="String(own.by_distance)"
      :walks="own"
      :units="home.view.value?.home.units ?? 'm'"
    />
    <button v-if="result && result.columns.length > 1" type="button" class="text" @click="lit = !lit">
      {{ lit ? 'Put the maps away' : 'Show the lamplight maps side by side' }}
    </button>
    <CoveragePair
      v-if="lit && result && referenceSetup"
      :columns="result.columns.filter((own) => !own.round_id)"
      :reference="referenceSetup"
    />
  </div>
</template>

<style scoped>
.compare {
  display: grid;
  gap: 10px;
}

header {
  display: grid;
  gap: 8px;
}

.switches {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}

.switches [role='group'] {
  display: flex;
  border: 1px solid var(--line);
  background: #fff;
}

.switches button {
  padding: 5px 10px;
  font-size: 0.84rem;
}

.switches [aria-pressed='true'] {
  background: var(--ink);
  color: #fff;
}

.picks,
.share {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  font-size: 0.84rem;
}

.picks label,
.share {
  display: flex;
  gap: 5px;
  align-items: center;
}

input[type='checkbox'] {
  accent-color: var(--ink);
}

.body {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 18px;
  align-items: start;
}

aside,
.table {
  display: grid;
  gap: 12px;
  min-width: 0;
}

.sheet {
  table-layout: fixed;
}

.scrolls {
  overflow-x: auto;
}

.sheet {
  min-width: calc(122px + var(--columns) * 150px);
}

.sheet th:first-child {
  width: 122px;
  position: sticky;
  left: 0;
  z-index: 1;
  background: var(--paper);
}

.sheet td,
.sheet th {
  padding: 4px 8px;
  vertical-align: top;
}

.column {
  border-left: 1px solid var(--line);
}

.column b {
  color: var(--ink);
  display: block;
  font-size: 0.88rem;
}

.column span,
.column button {
  display: block;
  font-size: 0.74rem;
}

.made {
  color: var(--yolk);
}

.whole.beyond {
  color: var(--leaf);
  font-weight: 600;
}

th[scope='row'] {
  font-weight: 600;
  font-size: 0.88rem;
  color: var(--ink);
}

th[scope='row'] span {
  display: block;
  font-size: 0.74rem;
  font-weight: 400;
  color: var(--quiet);
}

.cell {
  display: grid;
  grid-template-columns: 38px minmax(0, 1fr) 64px;
  gap: 6px;
  align-items: center;
}

.cell b {
  text-align: right;
}

.cell b.predicted {
  font-weight: 400;
  font-style: italic;
  color: var(--quiet);
}

.told {
  font-size: 0.74rem;
  line-height: 1.25;
}

.told i,
.told em,
.told small {
  display: block;
  font-style: normal;
}

.told em.beyond {
  font-weight: 700;
}

.told em.worse {
  color: var(--comb);
}

.told em.not_shown,
.told em.cant_tell,
.told small {
  color: var(--quiet);
}

tr.chosen,
tr.chosen th:first-child {
  background: var(--select);
}

tbody tr {
  cursor: pointer;
}

ul {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 4px;
}

@media (max-width: 1100px) {
  .body {
    grid-template-columns: minmax(0, 1fr);
  }
}

@media (max-width: 700px) {
  .sheet,
  .sheet tbody,
  .sheet thead,
  .sheet tr,
  .sheet td,
  .sheet th {
    display: block;
    width: auto !important;
  }

  .sheet {
    min-width: 0;
  }

  .sheet th:first-child {
    position: static;
  }

  .sheet thead th:first-child {
    display: none;
  }

  .column {
    border-left: 0;
  }

  .cell {
    grid-template-columns: 16px 52px minmax(0, 1fr) 72px;
  }

  .cell::before {
    content: attr(data-letter);
    color: var(--quiet);
    font-size: 0.8rem;
  }
}
</style>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api } from '../../api/client'
import type { Mishap, Purpose, Run, SpotRow } from '../../api/types'
import { isMarked } from '../../shared/marks'
import NumberField from '../../shared/NumberField.vue'
import { unread } from '../../shared/numbers'
import { kindWord, percent, purposeWord, speed, testWord, verdictWord, when } from '../../shared/words'
import { PictureStrip, useBench, useHome } from '../bench'
import AgainForm from './AgainForm.vue'
import CheckSheet from './CheckSheet.vue'
import MarkSheet from './MarkSheet.vue'
import NextSpot from './NextSpot.vue'
import NewRoundForm from './NewRoundForm.vue'
import OnRecord from './OnRecord.vue'
import PairPhone from './PairPhone.vue'
import PasteTable from './PasteTable.vue'
import RoundLevel, { type DrawnSpot } from './RoundLevel.vue'
import RunList from './RunList.vue'
import RushList from './RushList.vue'
import RunTrace from './RunTrace.vue'
import TypedCheck from './TypedCheck.vue'
import TypedRun from './TypedRun.vue'
import { useRound } from './useRound'

const home = useHome()
const bench = useBench()
const route = useRoute()
const router = useRouter()

const view = computed(() => home.view.value)
const setup = computed(() => view.value?.home.setups.find((own) => own.id === bench.setupId))
const rounds = computed(() => view.value?.rounds.filter((own) => own.round.setup_id === bench.setupId) ?? [])
const chosen = computed(() => {
  const asked = typeof route.params.round === 'string' ? route.params.round : ''
  return rounds.value.some((own) => own.round.id === asked) ? asked : rounds.value.at(-1)?.round.id
})
/** An address of a round leads to its setup too; a setup chosen afterwards is left alone. */
watch(
  [() => route.params.round, () => !!view.value],
  ([asked]) => {
    const own = view.value?.rounds.find((one) => one.round.id === asked)
    if (own) bench.setupId = own.round.setup_id
  },
  { immediate: true },
)
const round = useRound(home, () => chosen.value)
const open = computed(() => round.view.value)

const beginning = ref(false)
/** What the round that is begun is for, where that was said before. */
const wanted = ref<Purpose>()
const typingAt = ref<string>()
const lookingAt = ref<string>()
const at = (spot: string | undefined) => open.value?.spots.find((own) => own.spot_id === spot)
/** Spots as they stand now: runs that arrive count at once. */
const typing = computed(() => at(typingAt.value))
const looking = computed(() => at(lookingAt.value))
const correcting = ref<Run>()
const deleting = ref(false)
const pairing = ref(false)
const seed = ref(14)
const repeating = ref(false)
const checkingAt = ref<string>()
const checking = computed(() => at(checkingAt.value))
const pasting = ref(false)
const mishaps = ref<Mishap[]>([])
const MISHAPS: { value: Mishap; title: string }[] = [
  { value: 'covered', title: 'a call comes in' },
  { value: 'drop_out', title: 'it drops out' },
  { value: 'busy_evening', title: 'the family is busy' },
  { value: 'mobile_data', title: 'it slips to mobile data' },
]

const doorWord = { as_left: 'doors as people leave them', open: 'doors open', shut: 'doors shut' }
const titles = computed(() =>
  rounds.value.map((own) => ({
    value: own.round.id,
    title: `${when(own.round.begun)}, ${purposeWord[own.round.purpose ?? 'rooms']}, ${kindWord[own.round.kind]}, ${own.runs} ${own.made_up ? 'made-up ' : ''}run${own.runs === 1 ? '' : 's'}`,
  })),
)

function show(id: string) {
  void router.push({ name: 'rounds', params: { home: home.id, round: id } })
}

async function begun(id: string) {
  beginning.value = false
  await home.reload()
  show(id)
}

async function walk() {
  if (await unread.settled()) await attempt(round.walk(seed.value, mishaps.value))
}
async function attempt(work: Promise<void>) {
  try {
    await work
    home.problem.value = ''
  } catch (error) {
    home.fail(error)
  }
}

async function remove() {
  deleting.value = false
  if (!open.value) return
  await attempt(
    answer(api.DELETE('/api/rounds/{round}', { params: { path: { round: open.value.round.id } } })),
  )
  await home.reload()
}

function chooseSpot(id: string) {
  const row = at(id)
  if (!row) return
  bench.roomId = row.room_id
  if (row.runs.length) lookingAt.value = id
}

async function begunIn(id: string, setup: string) {
  repeating.value = false
  bench.setupId = setup
  await home.reload()
  show(id)
}

/** A drill leads here to begin a round for its purpose. */
watch(
  () => route.query.begin,
  (purpose) => {
    if (typeof purpose !== 'string') return
    wanted.value = purpose as Purpose
    beginning.value = true
    void router.replace({ name: 'rounds', params: route.params })
  },
  { immediate: true },
)

/** `t` on the bench: a run for the chosen room, or for the first spot that still wants one. */
watch(
  [() => route.query.test, open],
  ([test, now]) => {
    if (!test || !now) return
    const wanting = now.spots.find((own) => own.run_count < now.round.runs_per_spot)
    typingAt.value = (now.spots.find((own) => own.room_id === bench.roomId) ?? wanting ?? now.spots[0])
      ?.spot_id
    void router.replace({ name: 'rounds', params: route.params })
  },
  { immediate: true },
)

const most = (row: SpotRow) => Math.max(...row.runs.flatMap((run) => run.trace_mbps), 1)
const asTheRound = (row: SpotRow) => row.runs.filter((run) => !run.under)
const missing = (row: SpotRow) => Math.max((open.value?.round.runs_per_spot ?? 0) - row.run_count, 0)
const taken = computed(() => open.value?.spots.reduce((sum, row) => sum + row.run_total, 0) ?? 0)
const left = computed(() => open.value?.spots.reduce((sum, row) => sum + missing(row), 0) ?? 0)

const plan = computed<DrawnSpot[]>(
  () =>
    open.value?.spots.flatMap((row, index) =>
      row.level_id
        ? [
            {
              id: row.spot_id,
              name: row.name,
              level: row.level_id,
              x: row.x_m,
              y: row.y_m,
              number: index + 1,
              state: stateOf(row),
            },
          ]
        : [],
    ) ?? [],
)
function stateOf(row: SpotRow): DrawnSpot['state'] {
  if (row.verdict === 'met' || row.verdict === 'just_met' || row.verdict === 'not_met') return row.verdict
  return row.run_total ? 'tested' : 'open'
}
const planned = computed(
  () =>
    open.value?.drawing.levels.filter((own) => plan.value.some((spot) => spot.level === own.level_id)) ?? [],
)
const purpose = computed(() => open.value?.round.purpose ?? 'rooms')
const pictured = computed(() => {
  const names = new Map(open.value?.spots.map((row) => [row.spot_id, row.name]))
  for (const own of open.value?.tested.home.setups[0]?.devices ?? []) names.set(own.id, own.name)
  return names
})
const marked = computed(() => isMarked(purpose.value))
const checked = computed(() => ['application_check', 'hand_over_walk'].includes(purpose.value))

/** What was typed waits for the next time; a list that stands open is closed first. */
function leave(event: KeyboardEvent) {
  const open = (event.target as HTMLElement).closest('[aria-expanded="true"]')
  if (!open) typingAt.value = undefined
}
</script>

<template>
  <div class="page">
    <header>
      <div>
        <h1>Rounds{{ setup ? `, setup ${setup.letter} ${setup.name}` : '' }}</h1>
        <p v-if="open" class="small quiet">
          {{ testWord[open.round.kind]
          }}{{ open.round.kind === 'local' ? ' to a machine wired to the router' : '' }} ·
          {{ open.client_name }}, {{ open.round.band ? `${open.round.band} GHz` : 'any band' }} ·
          {{ doorWord[open.round.doors] }} ·
          {{ open.round.situation === 'alone' ? 'nothing else busy' : 'busy evening' }} ·
          {{ open.round.runs_per_spot }} runs a spot
        </p>
      </div>
      <div class="tools">
        <a class="small" :href="`/api/homes/${home.id}/readings.csv`" download>Readings as CSV</a>
        <v-btn
          id="begin-round"
          size="small"
          variant="flat"
          color="primary"
          :disabled="!setup?.devices.length"
          @click="((wanted = undefined), (beginning = true))"
        >
          Begin a round
        </v-btn>
      </div>
    </header>

    <p v-if="!setup" class="quiet">
      A round tests a setup: make one under <router-link :to="{ name: 'setups' }">Setups</router-link> first.
    </p>
    <p v-else-if="rounds.length === 0" class="quiet">
      Nothing was tested in this setup yet. Begin a round, then pair a phone and walk with it, type in what
      another test shows, or send the stand-in phone through to see how it works.
    </p>

    <template v-if="open">
      <div class="bar">
        <v-select
          :model-value="chosen"
          :items="titles"
          label="Round"
          class="which"
          @update:model-value="show"
        />
        <v-btn id="pair" size="small" variant="flat" color="primary" @click="pairing = true"
          >Pair a phone</v-btn
        >
        <template v-if="open.walking">
          <span role="status">The stand-in phone is walking: {{ left }} runs to go.</span>
          <v-btn id="stop-walk" size="small" @click="attempt(round.stopWalk())">Call it back</v-btn>
        </template>
        <template v-else>
          <v-btn
            id="walk"
            size="small"
            :disabled="left === 0 || marked || checked || purpose === 'family_rush'"
            @click="walk"
          >
            Send the stand-in phone
          </v-btn>
          <v-btn id="again" size="small" class="apart" @click="repeating = true">Repeat…</v-btn>
          <v-btn v-if="!marked && !checked" size="small" @click="pasting = true">Paste a table…</v-btn>
          <v-btn size="small" variant="text" @click="deleting = true">Delete…</v-btn>
        </template>
      </div>
      <p v-if="open.made_up" class="note small" role="status" aria-label="Made up">
        <b>Made-up readings.</b> The stand-in phone took them from a hidden house that differs from the drawn
        one: what follows from them is a verdict on a made-up round, not on this home.
      </p>
      <details class="small quiet">
        <summary>About this stand-in</summary>
        <p>
          The stand-in phone is simulated: the samples that it sends are made up from a hidden house, which
          follows another law than the predictions and differs from the drawn one. The same number is the same
          house. What goes wrong on its way can be switched on.
        </p>
        <div class="stand-in">
          <NumberField
            :value="seed"
            of="count"
            label="Seed of its house"
            class="seed"
            @change="seed = $event"
          />
          <label v-for="own in MISHAPS" :key="own.value">
            <input v-model="mishaps" type="checkbox" :value="own.value" /> {{ own.title }}
          </label>
        </div>
      </details>
      <OnRecord :open="open" :see="round.see" @allowed="round.reload" />
      <p v-if="open.changed_since.length" class="note small" role="status" aria-label="Changed since">
        Tested before {{ open.changed_since.join(', before ') }}. All that is shown here is of the home as it
        was tested.
      </p>
      <p v-if="open.tested.law == null" class="small quiet">
        What this round was taken in was kept later, on {{ when(open.tested.kept_at) }}: setup and house may
        have been changed between.
      </p>
      <div v-if="planned.length" class="plan" role="group" aria-label="The way through the spots">
        <RoundLevel
          v-for="own in planned"
          :key="own.level_id"
          :drawing="open.drawing"
          :level="own.level_id"
          :spots="plan"
          :units="open.tested.home.units"
          @choose="chooseSpot"
        />
      </div>
      <p v-if="planned.length && !marked" class="small quiet">
        Numbers are the way that is walked<template v-if="!checked && purpose !== 'family_rush'"
          >; green: need met, yellow: just met, red: not met, straw: tested and no need noted</template
        >.
      </p>
      <NextSpot
        v-if="!marked && !checked && purpose !== 'family_rush' && !open.walking && left > 0"
        :open="open"
        @take="typingAt = $event"
      />
      <MarkSheet
        v-if="marked"
        :open="open"
        @look="lookingAt = open.spots[0]?.spot_id"
        @beside="round.setBeside"
      />
      <RushList v-else-if="purpose === 'family_rush'" :open="open" />
      <CheckSheet v-else-if="checked" :open="open" @type="checkingAt = $event" />
      <table v-else class="sheet">
        <thead>
          <tr>
            <th scope="col">spot</th>
            <th scope="col">runs</th>
            <th scope="col" class="number">median down</th>
            <th scope="col" class="number">middle half</th>
            <th scope="col" class="number">up</th>
            <th scope="col" class="number">idle / load ms</th>
            <th scope="col" class="number">predicted</th>
            <th scope="col" class="number">gap</th>
            <th scope="col">need</th>
            <th><span class="visually-hidden">type in</span></th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in open.spots"
            :key="row.spot_id"
            :class="{ chosen: row.room_id === bench.roomId }"
            @click="bench.roomId = row.room_id"
          >
            <th scope="row">
              {{ row.name }}
              <small v-if="!row.there" class="quiet">no longer in the house</small>
              <small v-for="lot in row.otherwise" :key="lot.words" class="otherwise">
                {{ lot.words }}: {{ speed(lot.summary.down_mbps.median) }} /
                {{ speed(lot.summary.up_mbps.median) }}, {{ lot.summary.runs }} run{{
                  lot.summary.runs === 1 ? '' : 's'
                }}
              </small>
            </th>
            <td>
              <button
                type="button"
                class="runs"
                :aria-label="`Runs at ${row.name}: ${row.run_count}`"
                :disabled="row.runs.length === 0"
                @click="lookingAt = row.spot_id"
              >
                <RunTrace
                  v-for="(run, index) in asTheRound(row)"
                  :key="run.id"
                  :run="run"
                  :number="row.run_count - asTheRound(row).length + index + 1"
                  :most="most(row)"
                  :outlier="row.outliers.includes(run.id)"
                />
                <i v-for="index in missing(row)" :key="index" />
              </button>
            </td>
            <td class="number strong">{{ speed(row.summary?.down_mbps.median) }}</td>
            <td class="number">
              <template v-if="row.summary">
                {{ speed(row.summary.down_mbps.lower_quartile) }}–{{
                  speed(row.summary.down_mbps.upper_quartile)
                }}
              </template>
              <template v-else>–</template>
            </td>
            <td class="number">{{ speed(row.summary?.up_mbps.median) }}</td>
            <td class="number">
              <template v-if="row.summary?.idle_ms">
                {{ row.summary.idle_ms.median.toFixed(0) }} /
                {{ row.summary.loaded_ms?.median.toFixed(0) ?? '–' }}
              </template>
              <template v-else>–</template>
            </td>
            <td class="number">
              {{ speed(row.forecast?.down.middle ?? row.predicted?.down.middle) }}
              <span v-if="row.differs" class="small quiet" :title="`By today’s law, ${open.law_now}`">
                now {{ speed(row.predicted?.down.middle) }}
              </span>
            </td>
            <td class="number">{{ percent(row.gap_percent) }}</td>
            <td :class="row.verdict ?? 'quiet'">
              {{ row.verdict ? verdictWord[row.verdict] : row.need ? 'untested' : 'no need' }}
              <small v-if="row.verdict && open.made_up" class="quiet under">made up</small>
            </td>
            <td class="do">
              <v-btn
                size="small"
                variant="text"
                :aria-label="`Type in a run at ${row.name}`"
                @click.stop="typingAt = row.spot_id"
              >
                Type in
              </v-btn>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="!marked && !checked" class="small quiet">
        Speeds in Mb/s. Met: medians and the low run reach every part of the need.
      </p>
      <PictureStrip :names="pictured" label="Pictures" />
    </template>

    <v-dialog v-model="beginning" aria-label="Begin a round" max-width="760" scrollable>
      <NewRoundForm
        v-if="setup"
        :setup="setup"
        :for-purpose="wanted"
        @close="beginning = false"
        @begun="begun"
      />
    </v-dialog>
    <v-dialog
      :model-value="!!typing"
      aria-label="Type in a run"
      persistent
      max-width="520"
      @update:model-value="typingAt = undefined"
    >
      <TypedRun
        v-if="typing && open"
        :spot="typing"
        :round="open"
        :add="round.add"
        :correct="round.correct"
        @close="typingAt = undefined"
        @keydown.esc="leave"
        @plan="router.push({ name: 'brief', params: { home: home.id } })"
      />
    </v-dialog>
    <v-dialog :model-value="!!correcting" aria-label="Put a run right" persistent max-width="520">
      <TypedRun
        v-if="correcting && looking && open"
        :spot="looking"
        :round="open"
        :run="correcting"
        :add="round.add"
        :correct="round.correct"
        @close="correcting = undefined"
        @plan="router.push({ name: 'brief', params: { home: home.id } })"
      />
    </v-dialog>
    <v-dialog v-model="pairing" aria-label="Pair a phone" max-width="560">
      <PairPhone v-if="open" :key="open.round.id" :round="open.round.id" @close="pairing = false" />
    </v-dialog>
    <v-dialog v-model="deleting" aria-label="Delete the round" max-width="440">
      <v-card v-if="open" title="Delete this round?">
        <v-card-text>
          It holds {{ taken }} {{ open.made_up ? 'made-up' : 'measured' }} run{{ taken === 1 ? '' : 's' }} at
          {{ open.spots.filter((row) => row.run_total).length }} spots. Undo brings them back.
          <div class="end">
            <v-btn size="small" @click="deleting = false">Keep it</v-btn>
            <v-btn size="small" variant="flat" color="error" @click="remove">Delete it</v-btn>
          </div>
        </v-card-text>
      </v-card>
    </v-dialog>
    <v-dialog
      :model-value="!!looking"
      aria-label="Runs at the spot"
      max-width="900"
      @update:model-value="lookingAt = undefined"
    >
      <RunList
        v-if="looking && open"
        :spot="looking"
        :open="open"
        :round="round"
        @close="lookingAt = undefined"
        @correct="correcting = $event"
      />
    </v-dialog>
    <v-dialog
      :model-value="!!checking"
      aria-label="What another screen did"
      persistent
      max-width="520"
      @update:model-value="checkingAt = undefined"
    >
      <TypedCheck
        v-if="checking && open"
        :spot="checking"
        :round="open"
        :add="round.add"
        @close="checkingAt = undefined"
      />
    </v-dialog>
    <v-dialog v-model="repeating" aria-label="The same round again" max-width="520">
      <AgainForm v-if="open" :key="open.round.id" :open="open" @close="repeating = false" @begun="begunIn" />
    </v-dialog>
    <v-dialog v-model="pasting" aria-label="Readings of another test" persistent max-width="860">
      <PasteTable v-if="open" :round="open.round.id" @close="pasting = false" @kept="round.reload" />
    </v-dialog>
  </div>
</template>

<style scoped>
header,
.bar,
.tools {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
}

.bar {
  flex-wrap: wrap;
  justify-content: flex-start;
  margin: 12px 0 6px;
}

.which {
  flex: 1 1 260px;
  max-width: 420px;
}

.apart {
  margin-left: auto;
}

.otherwise {
  display: block;
  font-weight: 400;
  color: var(--quiet);
}

.stand-in {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  margin: 6px 0;
}

.plan {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  gap: 8px;
  margin: 8px 0;
}

.sheet .words {
  white-space: normal;
}

.seed {
  max-width: 130px;
}

header p {
  margin: 2px 0 0;
}

.sheet td,
.sheet th {
  padding: 4px 6px;
  font-size: 0.86rem;
  vertical-align: middle;
}

.sheet td {
  white-space: nowrap;
}

.tools a {
  white-space: nowrap;
}

.runs {
  display: flex;
  gap: 2px;
}

.runs i {
  width: 26px;
  height: 26px;
  border: 1px solid var(--line);
  background: #fff;
}

.under {
  display: block;
}

.sheet .do {
  padding-left: 0;
  text-align: right;
}

.do .v-btn {
  padding-inline: 4px;
}

.strong {
  font-weight: 700;
}

tr.chosen {
  background: var(--select);
}

@media (max-width: 1180px) {
  .sheet td,
  .sheet th {
    padding: 4px 3px;
    font-size: 0.82rem;
  }

  .runs {
    flex-wrap: wrap;
    width: 84px;
  }
}

@media (max-width: 900px) {
  header,
  .bar {
    flex-wrap: wrap;
  }

  .sheet thead,
  .sheet td:nth-child(4),
  .sheet td:nth-child(5),
  .sheet td:nth-child(6),
  .sheet td:nth-child(7),
  .sheet td:nth-child(8) {
    display: none;
  }

  tbody .v-btn {
    min-height: 48px;
  }
}
</style>

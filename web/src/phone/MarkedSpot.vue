<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Mark, MarkRow, PhoneSpot, RunDetails } from '../api/types'
import RangeChart from '../shared/RangeChart.vue'
import { heardWords, markTitle } from '../shared/marks'
import { farAway, speed, verdictWord } from '../shared/words'
import ConditionChips from './ConditionChips.vue'
import PictureTaker from './PictureTaker.vue'
import ShownHere from './ShownHere.vue'
import SpotDetails from './SpotDetails.vue'
import SpotFigures from './SpotFigures.vue'
import { LIMITS, takes } from './takes'
import type { Phone } from './usePhone'
import { useWhere } from './useWhere'

const props = defineProps<{ phone: Phone; spot: PhoneSpot }>()
const { view, last, conditions, expired, busy } = props.phone

/** Where one stands, kept for the round through a reload. */
const here = useLocalStorage('busy-hen phone mark', {
  round: '',
  name: '',
  far: '',
  returning: false,
  beside: true,
})
const stride = useLocalStorage('busy-hen phone stride', '')
const paces = ref('')
/** Whether the distance is paced. */
const pacing = ref(false)
/** Whether the phone itself says how far it is. */
const byItself = ref(false)
const where = useWhere(() => view.value?.round_id ?? '')
const { possible, begun, within, problem: lost } = where
const started = computed(() => begun.value?.round === view.value?.round_id)
const most = computed(() => LIMITS[conditions.limit.value]?.value ?? Infinity)
const adding = ref('')
watch(
  () => view.value?.round_id ?? '',
  (round) => {
    if (here.value.round !== round) here.value = { round, name: '', far: '', returning: false, beside: true }
  },
  { immediate: true },
)

const purpose = computed(() => view.value?.purpose)
const units = computed(() => view.value?.units ?? 'm')
const range = computed(() => purpose.value === 'range_walk')
const carried = computed(() => purpose.value === 'placement_trial')
const route = computed(() => purpose.value === 'route_walk')

const words = computed(
  () =>
    ({
      wired_ceiling: { what: 'Cable into', add: 'Another place of the cable' },
      outlet_trial: { what: 'Outlet', add: 'Another outlet' },
      placement_trial: { what: 'The node stands at', add: 'Another place' },
      route_walk: { what: 'Mark', add: 'Next mark' },
      range_walk: { what: '', add: '' },
    })[purpose.value as 'range_walk'],
)
/** Names there are: known to the bench, usual ones, and the one just made. */
const names = computed(() => {
  const usual = purpose.value === 'wired_ceiling' ? ['the router', 'the box of the line'] : []
  const known = view.value?.marks.map((row) => row.mark.name ?? '') ?? []
  return [...new Set([...usual, ...known, here.value.name])].filter(Boolean)
})
/** Whether something is typed of how far it is; what it means is read by the bench. */
const farKnown = computed(() =>
  pacing.value ? !!paces.value.trim() && !!stride.value.trim() : !!here.value.far.trim(),
)
const mark = computed<Mark | undefined>(() => {
  if (range.value && byItself.value)
    return started.value ? { name: '', returning: here.value.returning } : undefined
  if (range.value) return farKnown.value ? { name: '', returning: here.value.returning } : undefined
  if (!here.value.name) return undefined
  return { name: here.value.name, beside_node: carried.value && here.value.beside }
})

/** A step farther or nearer, from a plain number; another length stays as it was typed. */
function step(by: number) {
  const typed = here.value.far.trim()
  pacing.value = false
  if (typed === '' || /^\d+$/.test(typed)) here.value.far = String(Math.max(0, Number(typed) + by))
}
function add() {
  const name = adding.value.trim() || (route.value ? String(names.value.length + 1) : '')
  if (name) here.value.name = name
  adding.value = ''
}
/** What goes with a run here. */
async function details(): Promise<RunDetails | undefined> {
  const own = mark.value
  if (!own) return undefined
  if (range.value && !byItself.value)
    return {
      mark: own,
      far: pacing.value ? { paces: paces.value, stride: stride.value } : { length: here.value.far },
    }
  if (!byItself.value) return { mark: own }
  const walked = await where.walked()
  return walked ? { mark: own, walked } : undefined
}
async function testHere() {
  const own = await details()
  if (own) await props.phone.test(props.spot.spot_id, most.value, own)
}
async function nothingHere() {
  const own = await details()
  if (own) await props.phone.keep('no_connection', props.spot.spot_id, own)
}
const heading = computed(() => {
  if (!range.value) return here.value.name || words.value.what
  if (byItself.value) return 'Where the phone is'
  if (!mark.value) return 'How far are you?'
  if (pacing.value) return `${paces.value} paces`
  const bare = /^[\d.,]+$/.test(here.value.far.trim())
  return bare ? `${here.value.far} ${units.value}` : here.value.far
})
const jump = computed(() => (units.value === 'ft' ? 15 : 5))

const rows = computed(() => view.value?.marks ?? [])
const best = computed(() => view.value?.best?.name)
const title = (row: MarkRow) => markTitle(row, units.value, carried.value ? props.spot.name : undefined)
const shows = computed(() => conditions.now.value?.signal || conditions.now.value?.link)
</script>

<template>
  <section v-if="view" aria-label="Mark">
    <h1>{{ heading }}</h1>

    <template v-if="range">
      <div v-if="!byItself" class="step">
        <button type="button" class="other" :aria-label="`${jump} ${units} nearer`" @click="step(-jump)">
          −{{ jump }}
        </button>
        <label>
          From the house, {{ units }}
          <input v-model="here.far" inputmode="decimal" @input="pacing = false" />
        </label>
        <button type="button" class="other" :aria-label="`${jump} ${units} farther`" @click="step(jump)">
          +{{ jump }}
        </button>
      </div>
      <div class="two">
        <button
          v-for="back in [false, true]"
          :key="String(back)"
          type="button"
          :class="['other', { on: here.returning === back }]"
          :aria-pressed="here.returning === back"
          @click="here.returning = back"
        >
          {{ back ? 'Way back' : 'Way out' }}
        </button>
      </div>
      <div v-if="possible" class="two">
        <button type="button" class="other" @click="where.begin">
          {{ started ? 'I stand at the house again' : 'I stand at the house' }}
        </button>
        <button
          type="button"
          :class="['other', { on: byItself }]"
          :aria-pressed="byItself"
          :disabled="!started"
          @click="byItself = !byItself"
        >
          Let the phone say how far
        </button>
      </div>
      <p v-if="byItself && within" class="small quiet">
        Good to about {{ farAway(within, units) }}; where you are is used for the distance and not kept.
      </p>
      <p v-if="lost" class="note small" role="alert">{{ lost }}</p>
      <details v-if="!byItself">
        <summary>Paced instead of measured</summary>
        <div class="fields">
          <label>Paces <input v-model="paces" inputmode="numeric" @input="pacing = true" /></label>
          <label>
            One pace, {{ units }} <input v-model="stride" inputmode="decimal" @input="pacing = true" />
          </label>
        </div>
      </details>
    </template>

    <template v-else>
      <p class="small">{{ words.what }}</p>
      <div class="chips" role="group" :aria-label="words.what">
        <button
          v-for="own in names"
          :key="own"
          type="button"
          :class="{ changed: here.name === own }"
          :aria-pressed="here.name === own"
          @click="here.name = own"
        >
          {{ own }}
        </button>
      </div>
      <form class="add" @submit.prevent="add">
        <label>
          {{ words.add }}
          <input v-model="adding" maxlength="60" :placeholder="route ? String(names.length + 1) : ''" />
        </label>
        <button type="submit" class="other">Add</button>
      </form>
      <div v-if="carried" class="two">
        <button
          v-for="beside in [true, false]"
          :key="String(beside)"
          type="button"
          :class="['other', { on: here.beside === beside }]"
          :aria-pressed="here.beside === beside"
          @click="here.beside = beside"
        >
          {{ beside ? 'I stand beside it' : `I stand in ${spot.name}` }}
        </button>
      </div>
    </template>

    <SpotFigures :phone="phone" />
    <template v-if="route">
      <SpotDetails :phone="phone" :spot="spot.spot_id" open />
      <button
        type="button"
        class="main"
        :disabled="!mark || !shows"
        @click="mark && phone.keep('heard', spot.spot_id, { mark })"
      >
        Keep what it shows here
      </button>
      <p v-if="!shows" class="small quiet">
        Type signal or link rate, as the phone shows it, for the band below.
      </p>
    </template>
    <ShownHere
      v-else-if="conditions.now.value?.tool"
      :phone="phone"
      :spot="spot.spot_id"
      :more="details"
      :disabled="busy || !mark"
    />
    <template v-else>
      <button type="button" class="main" :disabled="!mark || expired || busy" @click="testHere">
        Test here
      </button>
      <button type="button" class="other" :disabled="!mark || expired" @click="nothingHere">
        No connection here
      </button>
      <p class="small quiet">{{ view.words }}. {{ takes(view.far_end ? 2 : 1, most, last) }}.</p>
    </template>

    <RangeChart v-if="range" :marks="rows" :drop-out="view.drop_out" :units="units" />
    <table v-else-if="rows.length">
      <thead>
        <tr>
          <th scope="col">{{ route ? 'mark' : 'place' }}</th>
          <th scope="col">{{ route ? 'heard' : 'Mb/s down / up' }}</th>
          <th v-if="!route" scope="col">need</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="title(row)">
          <th scope="row">
            {{ title(row) }}
            <small v-if="best && row.mark.name === best && !row.mark.beside_node">best so far</small>
          </th>
          <td v-if="route">{{ heardWords(row) }}</td>
          <template v-else>
            <td>
              {{
                row.summary
                  ? `${speed(row.summary.down_mbps.median)} / ${speed(row.summary.up_mbps.median)}`
                  : '–'
              }}<small v-if="row.runs > 1">, {{ row.runs }} runs</small>
            </td>
            <td>{{ row.verdict && !row.mark.beside_node ? verdictWord[row.verdict] : '' }}</td>
          </template>
        </tr>
      </tbody>
    </table>
    <ConditionChips :phone="phone" />
    <SpotDetails v-if="!route" :phone="phone" :spot="spot.spot_id" kit />
    <PictureTaker :phone="phone" :spot="spot.spot_id" :name="spot.name" />
    <label v-if="!route" class="small">
      Data to use
      <select v-model="conditions.limit.value">
        <option v-for="(own, index) in LIMITS" :key="own.title" :value="index">{{ own.title }}</option>
      </select>
    </label>
  </section>
</template>

<style scoped>
.step {
  display: grid;
  grid-template-columns: 72px 1fr 72px;
  gap: 8px;
  align-items: end;
}

.step input {
  font-size: 1.5rem;
  text-align: center;
}

.add {
  display: grid;
  grid-template-columns: 1fr 88px;
  gap: 8px;
  align-items: end;
}

.add .other {
  min-height: 48px;
}

.on {
  background: var(--select);
  border-width: 3px;
}

td small,
th small {
  color: var(--leaf);
  display: block;
  font-weight: 400;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'

import type { PhoneSpot } from '../api/types'
import { speed, verdictWord } from '../shared/words'
import { TRANSFER_MS, type Phase } from './measure'
import SpotPlan from './SpotPlan.vue'
import { usePhone } from './usePhone'

const phone = usePhone()
const { view, waiting, homeless, there, problem, testing, last, spot } = phone
const listing = ref(false)
const LIMITS = [
  { title: 'no limit', value: Infinity },
  { title: '200 MB each way', value: 200e6 },
  { title: '50 MB each way', value: 50e6 },
]
const most = ref(Infinity)
const awake = 'wakeLock' in navigator

const phaseWord: Record<Phase, string> = {
  waiting: 'Waiting for another phone to finish',
  idle: 'Delay, nothing else going on',
  down: 'Download',
  up: 'Upload',
}
const legs = computed(() => (view.value?.far_end ? 2 : 1))
const seconds = computed(() => legs.value * Math.round((2 * TRANSFER_MS) / 1000 + 2))
/** What a run takes: told from the legs of the one before it here, else by an example. */
const takes = computed(() => {
  if (most.value !== Infinity)
    return `${seconds.value} s, at most ${(2 * legs.value * most.value) / 1e6} MB a run`
  const seen = kept.value.reduce((sum, leg) => sum + leg.down_mbps + leg.up_mbps, 0)
  if (kept.value.length < legs.value) return `${seconds.value} s a run; at 900 Mb/s that is over a gigabyte`
  const megabytes = (seen * TRANSFER_MS) / 8 / 1000
  return `${seconds.value} s, about ${megabytes < 10 ? megabytes.toFixed(1) : megabytes.toFixed(0)} MB a run`
})
const rate = computed(() => testing.value?.rates.at(-1))
const trace = computed(() => {
  const rates = testing.value?.rates ?? []
  const top = Math.max(...rates, 1)
  return rates.map((own, index) => `${index * 5},${60 - (own / top) * 56}`).join(' ')
})
/** The run just kept here, leg by leg. */
const kept = computed(() => {
  if (!last.value || last.value.run.spot_id !== spot.value?.spot_id) return []
  return [last.value.run, last.value.beyond].flatMap((run, index) =>
    run?.outcome.kind === 'measured'
      ? [{ title: index === 0 ? 'within the home' : 'to the far end', ...run.outcome }]
      : [],
  )
})

function enoughWord(own: PhoneSpot): string {
  const state = own.enough
  switch (state.kind) {
    case 'too_few':
      return own.runs === 0 ? 'not tested yet' : `${state.more} more to say how much it varies`
    case 'comes_and_goes':
      return 'the connection comes and goes here'
    case 'enough':
      return own.summary?.without_connection === own.runs
        ? 'enough: no connection here'
        : `enough: the median is known to ${Math.max(1, Math.round(state.within * 100))} %`
    case 'more':
      if (state.more == null) return 'it varies so much that runs alone won’t settle it'
      return state.more === 1
        ? 'one more run would settle the median to within 10 %'
        : `${state.more} more runs would settle the median to within 10 %`
  }
}

function choose(own: PhoneSpot) {
  phone.chosen.value = own.spot_id
  last.value = undefined
  listing.value = false
}

function next() {
  phone.chosen.value = undefined
  last.value = undefined
}
</script>

<template>
  <main>
    <header>
      <b class="wordmark">Busy Hen</b>
      <span v-if="view">{{ view.home_name }}, setup {{ view.setup }}</span>
    </header>
    <p v-if="waiting.length" class="note" role="status">
      {{ waiting.length }} run{{ waiting.length === 1 ? '' : 's' }} kept on this phone, not sent yet. Keep
      this page open; it sends by itself when the bench answers.
      <template v-if="homeless">
        The round it is for is not there.
        <button type="button" class="drop" @click="phone.drop">Throw it away</button>
      </template>
    </p>
    <p v-else-if="!there" class="note" role="status">
      The bench does not answer; what you measure is kept here.
    </p>
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <p v-if="!view && !problem" class="quiet">Scan the code that the bench shows under Rounds.</p>

    <template v-if="view && spot">
      <section v-if="testing" aria-label="Test under way" class="testing">
        <h1>{{ spot.name }}</h1>
        <p role="status">{{ testing.beyond ? 'To the far end: ' : '' }}{{ phaseWord[testing.phase] }}</p>
        <p class="big">{{ rate === undefined ? '…' : speed(rate) }} <small>Mb/s</small></p>
        <svg viewBox="0 0 300 64" role="img" aria-label="The rate so far">
          <polyline :points="trace" />
        </svg>
        <p class="small">Run {{ spot.runs + 1 }}. Stand still and keep this page in view.</p>
        <button type="button" class="other" @click="phone.stop">Stop</button>
      </section>

      <section v-else-if="listing" aria-label="Spots">
        <h1>Where are you?</h1>
        <ul>
          <li v-for="own in view.spots" :key="own.spot_id">
            <button type="button" @click="choose(own)">
              <b>{{ own.name }}</b>
              <span
                >{{ own.summary ? `${speed(own.summary.down_mbps.median)} Mb/s, ` : ''
                }}{{ enoughWord(own) }}</span
              >
            </button>
          </li>
        </ul>
        <button type="button" class="other" @click="listing = false">Back</button>
      </section>

      <section v-else aria-label="Spot">
        <h1>{{ spot.name }}</h1>
        <SpotPlan :view="view" :spot="spot" />
        <dl v-for="leg in kept" :key="leg.title" :aria-label="`The run just kept, ${leg.title}`">
          <div v-if="kept.length > 1 || view.far_end" class="leg">{{ leg.title }}</div>
          <div>
            <dt>down</dt>
            <dd>{{ speed(leg.down_mbps) }}<small>Mb/s</small></dd>
          </div>
          <div>
            <dt>up</dt>
            <dd>{{ speed(leg.up_mbps) }}<small>Mb/s</small></dd>
          </div>
          <div>
            <dt>idle</dt>
            <dd>{{ leg.idle_ms?.toFixed(0) ?? '–' }}<small>ms</small></dd>
          </div>
          <div>
            <dt>busy</dt>
            <dd>{{ leg.loaded_ms?.toFixed(0) ?? '–' }}<small>ms</small></dd>
          </div>
        </dl>
        <p v-if="kept.length && last?.slow_leg">
          The slow part is
          <b>{{ last.slow_leg === 'line' ? 'the line or beyond it' : 'within the home' }}</b>.
        </p>
        <p v-if="kept.length && last?.beyond_problem" class="note">
          To the far end: {{ last.beyond_problem }}
        </p>
        <p role="status">
          <b v-if="spot.summary">
            Median {{ speed(spot.summary.down_mbps.median) }} / {{ speed(spot.summary.up_mbps.median) }} Mb/s
            of {{ spot.runs }} run{{ spot.runs === 1 ? '' : 's'
            }}<template v-if="spot.verdict"
              >, {{ view.kind === 'local' ? 'as far as this machine the need is' : 'need' }}
              {{ verdictWord[spot.verdict] }}</template
            >.
          </b>
          {{ enoughWord(spot) }}.
        </p>
        <button v-if="spot.done && view.next" type="button" class="main" @click="next">
          Next: {{ view.spots.find((own) => own.spot_id === view?.next)?.name }}
        </button>
        <p v-else-if="spot.done" class="note">All spots have runs enough.</p>
        <button
          type="button"
          :class="spot.done ? 'other' : 'main'"
          :disabled="!view.may_test"
          @click="phone.test(spot.spot_id, most)"
        >
          {{ spot.runs ? 'Test on here' : 'Test here' }}
        </button>
        <p class="small quiet">
          {{ view.words }}. {{ takes }}.
          <template v-if="!awake"
            >This browser can’t keep the screen on here; touch it now and then.</template
          >
        </p>
        <div class="two">
          <button type="button" class="other" @click="phone.noConnection(spot.spot_id)">
            No connection here
          </button>
          <button type="button" class="other" @click="listing = true">Another spot</button>
        </div>
        <label class="small">
          Data to use
          <select v-model="most">
            <option v-for="own in LIMITS" :key="own.title" :value="own.value">{{ own.title }}</option>
          </select>
        </label>
      </section>
    </template>
  </main>
</template>

<style scoped>
main {
  max-width: 480px;
  margin: 0 auto;
  padding: 10px 14px 20px;
  font-size: 1.06rem;
}

header {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  font-size: 0.95rem;
  padding-bottom: 8px;
}

section {
  display: grid;
  gap: 10px;
}

.wordmark {
  font-family: var(--text);
  white-space: nowrap;
}

h1 {
  font-family: var(--text);
  font-size: 1.6rem;
}

.note {
  border-left: 4px solid var(--yolk);
  background: var(--select);
  padding: 8px 10px;
  margin: 0 0 8px;
}

.drop {
  text-decoration: underline;
  min-height: 48px;
}

.bad {
  border-color: var(--comb);
}

.main,
.other,
li button {
  min-height: 56px;
  padding: 8px 14px;
  border: 2px solid var(--ink);
  border-radius: 4px;
  text-align: center;
  font-weight: 600;
}

.main {
  background: var(--ink);
  color: #fff;
  min-height: 72px;
  font-size: 1.25rem;
}

.main:disabled {
  background: var(--quiet);
  border-color: var(--quiet);
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}

ul {
  list-style: none;
  display: grid;
  gap: 8px;
}

li button {
  width: 100%;
  display: grid;
  text-align: left;
  border-width: 1px;
  background: #fff;
}

li span {
  font-weight: 400;
  font-size: 0.95rem;
}

.testing {
  text-align: center;
}

.leg {
  grid-column: 1 / -1;
  border: 0;
  padding: 0;
  background: none;
  font-size: 0.95rem;
}

.big {
  font-size: 3.6rem;
  line-height: 1.1;
  font-weight: 700;
}

.big small {
  font-size: 1.2rem;
}

svg polyline {
  fill: none;
  stroke: var(--leaf);
  stroke-width: 2.5;
}

dl {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}

dl div {
  background: #fff;
  border: 1px solid var(--line);
  padding: 6px 8px;
}

dt {
  font-size: 0.9rem;
  color: var(--quiet);
}

dd {
  font-size: 1.5rem;
  font-weight: 700;
}

dd small {
  display: block;
  font-size: 0.8rem;
  font-weight: 400;
}

select {
  min-height: 48px;
  font: inherit;
  padding: 4px 8px;
  border: 1px solid var(--quiet);
  background: #fff;
}
</style>

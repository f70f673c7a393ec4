<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Drilled } from '../../api/types'
import UnsentNote from '../../shared/UnsentNote.vue'
import { seconds, speed, when } from '../../shared/words'
import { useBench, useHome } from '../bench'
import DrillLine from './DrillLine.vue'
import RunningDrill from './RunningDrill.vue'
import WalkCard from './WalkCard.vue'
import { useDrills } from './useDrills'
import { partWord } from './words'

const home = useHome()
const bench = useBench()
const drills = useDrills()
const { list, running, doing, elapsed, answers, knocked, addresses, problem } = drills
const { begin, mark, unmark, end, remove, unsent, devicesOf, listens } = drills
const { places, look, told: heard } = drills.listening
const { waiting, problem: why, refused } = unsent

const setup = computed(() => home.view.value?.home.setups.find((own) => own.id === bench.setupId))
const runningSetup = computed(
  () => home.view.value?.home.setups.find((own) => own.id === running.value?.setup_id) ?? setup.value,
)
const open = ref('')
/** The failure that is announced, before anything is pulled. */
const announced = ref<Drilled>()
/** Devices that the announced failure takes. */
const taken = computed(() => {
  const ids = announced.value ? devicesOf(announced.value.predicted.failure, bench.setupId) : []
  return setup.value?.devices.filter((own) => ids.includes(own.id)) ?? []
})
const loses = (own: Drilled) => own.predicted.rooms.filter((room) => room.loses).slice(0, 6)
const took = (own: Drilled, part: Drilled['usual'][number]['part']) =>
  own.timed.find((one) => one.part === part)
const parts = (own: Drilled) => [
  ...new Set([...own.usual.map((one) => one.part), ...own.timed.map((one) => one.part)]),
]

/** How far what this page holds reaches. */
const reach = computed(() =>
  [places.value?.bench_token && 'to the bench', places.value?.far_end && 'beyond the line']
    .filter(Boolean)
    .join(' and '),
)

/** "all back 95 s (3 drills in 2 homes)" */
const elsewhere = (own: Drilled) =>
  own.elsewhere
    .map(({ part, took_s }) => {
      const drills = `${took_s.count} drill${took_s.count === 1 ? '' : 's'}`
      const homes = `${took_s.homes} home${took_s.homes === 1 ? '' : 's'}`
      return `${partWord[part]} ${seconds(took_s.figures.median)} (${drills} in ${homes})`
    })
    .join(', ')

/** What is noted with the device is where the bench knocks, unless something else was typed. */
function announce(own: Drilled) {
  announced.value = own
  look(undefined)
  for (const device of taken.value)
    if (device.settings_address) addresses.value[device.id] ||= device.settings_address
}

function pull() {
  if (announced.value) begin(announced.value.predicted.failure, announced.value.predicted.doing)
  announced.value = undefined
}
</script>

<template>
  <div class="page drills">
    <header>
      <h1>Drills, setup {{ setup?.letter }}: {{ setup?.name }}</h1>
      <p class="quiet">One thing fails at a time: what it will do is predicted, what it did is timed.</p>
    </header>
    <RunningDrill
      v-if="running && runningSetup"
      :drill="running"
      :elapsed="elapsed"
      :doing="doing"
      :setup="runningSetup"
      :answers="answers"
      :knocked="knocked"
      :heard="heard"
      @mark="mark"
      @unmark="unmark"
      @end="end"
    />
    <section v-else-if="announced" class="announce" aria-label="Before it is pulled">
      <h2>{{ announced.predicted.doing }}</h2>
      <p>
        <b>Say it in the home first:</b> who is on a call, who works, whose device must not lose its power. It
        can be broken off at any time.
      </p>
      <p v-for="told in announced.predicted.told" :key="told" class="small">To be seen: {{ told }}</p>
      <v-text-field
        v-for="own in taken"
        :key="own.id"
        v-model="addresses[own.id]"
        :label="`Address of ${own.name}, to be timed by the bench (may be left empty)`"
        placeholder="192.168.1.2"
      />
      <template v-if="places">
        <v-checkbox
          v-if="places.bench_token || places.far_end"
          v-model="listens"
          :label="`This page holds a call and a small download meanwhile, ${reach}, and marks what it hears`"
        />
        <p v-else class="small quiet">
          Opened on another machine than the bench, or with a far end behind the line, this page would hold a
          call and a download meanwhile and mark by itself when they fall silent, go on and break.
        </p>
      </template>
      <div class="end">
        <v-btn size="small" variant="text" @click="announced = undefined">Not now</v-btn>
        <v-btn color="error" variant="flat" @click="pull">{{
          announced.predicted.failure.what === 'old_network' ? 'It is on now' : 'Pull it now'
        }}</v-btn>
      </div>
    </section>
    <!-- Told under the marks: what comes and goes must not move them while somebody presses. -->
    <UnsentNote :waiting="waiting" :problem="why" :refused="refused" @forget="unsent.forget" />
    <p v-if="problem" role="alert" class="note small">{{ problem }}</p>
    <p v-if="setup && !list" class="quiet">Working out what each failure will do …</p>
    <ul v-else class="cards">
      <li v-for="own in list" :key="own.predicted.doing">
        <h2>{{ own.predicted.doing }}</h2>
        <p v-for="told in own.predicted.told" :key="told" class="small">{{ told }}</p>
        <table v-if="parts(own).length" class="small">
          <thead>
            <tr>
              <th scope="col">part</th>
              <th scope="col">usual</th>
              <th scope="col">here</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="part in parts(own)" :key="part">
              <th scope="row">{{ partWord[part] }}</th>
              <td>
                <template v-for="one in own.usual.filter((usual) => usual.part === part)" :key="one.part"
                  >{{ seconds(one.from_s) }} to {{ seconds(one.to_s) }}</template
                >
              </td>
              <td>
                <template v-if="took(own, part)">
                  <b>{{ seconds(took(own, part)!.took_s.median) }}&nbsp;</b>
                  <span v-if="took(own, part)!.drills > 1" class="quiet">
                    ({{ seconds(took(own, part)!.took_s.lower_quartile) }} to
                    {{ seconds(took(own, part)!.took_s.upper_quartile) }},
                    {{ took(own, part)!.drills }} drills)
                  </span>
                  <span v-else class="quiet">(one drill)</span>
                </template>
                <template v-else>–</template>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="own.elsewhere.length" class="small quiet">With this kit elsewhere: {{ elsewhere(own) }}.</p>
        <p v-for="told in own.told" :key="told" class="small said">{{ told }}</p>
        <div class="row">
          <v-btn size="small" :disabled="!!running" @click="announce(own)">Run this drill …</v-btn>
          <button
            v-if="loses(own).length || own.drills.length"
            type="button"
            class="text small"
            :aria-expanded="open === own.predicted.doing"
            @click="open = open === own.predicted.doing ? '' : own.predicted.doing"
          >
            {{ own.drills.length ? `${own.drills.length} run, and what rooms keep` : 'what rooms keep' }}
          </button>
        </div>
        <template v-if="open === own.predicted.doing">
          <table v-if="loses(own).length" class="small">
            <thead>
              <tr>
                <th scope="col">room</th>
                <th scope="col">before, Mb/s</th>
                <th scope="col">left, Mb/s</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="room in loses(own)" :key="room.room_id">
                <th scope="row">{{ room.name }}</th>
                <td>{{ speed(room.before_mbps) }}</td>
                <td :class="{ lost: room.was_met && room.met === false }">{{ speed(room.left_mbps) }}</td>
              </tr>
            </tbody>
          </table>
          <div v-for="drill in own.drills" :key="drill.id" class="run small">
            {{ when(drill.begun) }}{{ drill.stopped ? ', broken off' : ''
            }}{{ drill.note ? `: ${drill.note}` : '' }}
            <button type="button" class="text" @click="remove(drill.id)">throw it away</button>
            <DrillLine :drill="drill" />
          </div>
        </template>
      </li>
      <WalkCard />
    </ul>
  </div>
</template>

<style scoped>
.drills,
header {
  display: grid;
  gap: 10px;
}

p,
h2 {
  margin: 0;
}

h2 {
  font-size: 1.05rem;
}

h2::first-letter {
  text-transform: uppercase;
}

.cards {
  list-style: none;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(330px, 100%), 1fr));
  gap: 12px;
  align-items: start;
}

.cards li,
.announce {
  background: #fff;
  border: 1px solid var(--line);
  padding: 12px 14px;
  display: grid;
  gap: 6px;
}

.announce {
  border-top: 4px solid var(--comb);
}

.end,
.row {
  display: flex;
  gap: 12px;
  align-items: center;
}

.end {
  justify-content: flex-end;
}

table {
  border-collapse: collapse;
}

th,
td {
  text-align: right;
  padding: 2px 8px 2px 0;
  font-weight: 400;
}

th:first-child {
  text-align: left;
}

.said {
  font-weight: 600;
}

.lost {
  color: var(--comb);
  font-weight: 600;
}

.note {
  border-left: 4px solid var(--yolk);
  padding: 2px 10px;
}

.run {
  border-top: 1px solid var(--line);
  padding-top: 6px;
}
</style>

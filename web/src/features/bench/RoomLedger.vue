<script setup lang="ts">
import { computed } from 'vue'

import type { HomeView, LedgerRow } from '../../api/types'
import { activityWord, area, speed, testWord, verdictWord } from '../../shared/words'
import { useBench } from './useBench'

const props = defineProps<{ view: HomeView }>()
const bench = useBench()

const setup = computed(() => props.view.home.setups.find((setup) => setup.id === bench.setupId))

/** Rows before any setup is there: the rooms alone. */
const bare = computed(() => props.view.drawing.rooms)

function uses(roomId: string): string {
  const words = props.view.home.brief.uses
    .filter((use) => use.room_id === roomId)
    .map((use) => (use.people > 1 ? `${use.people} × ` : '') + activityWord[use.activity])
  return words.length > 0 ? words.join(', ') : 'no need noted'
}

const heard = computed(() => props.view.home.air?.length ?? 0)
const need = (roomId: string) => props.view.needs.find((own) => own.room_id === roomId)?.need

const otherConditions = computed(() => bench.ledger.find((row) => row.measured_under)?.measured_under ?? '')

/** What was measured goes first where there is any; with readings alone, what was not tested is not judged. */
function verdict(row: LedgerRow) {
  return bench.showMeasured ? row.measured_verdict : row.judged?.verdict
}

/** What the verdict goes by, in words. */
function basis(row: LedgerRow): string {
  if (bench.showMeasured) return row.measured ? (row.made_up ? 'made up' : 'measured') : 'not tested'
  if (!row.judged) return ''
  return row.judged.measured ? 'measured' : 'predicted'
}

const byMeasured = (row: LedgerRow) => bench.showMeasured || Boolean(row.judged?.measured)

/** Up and Down go through the rooms. */
function step(event: KeyboardEvent) {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (!by || !bench.keysOn) return
  event.preventDefault()
  const buttons = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('th button')]
  const at = buttons.indexOf(document.activeElement as HTMLElement)
  const next = (at + by + buttons.length) % buttons.length
  buttons[next]?.focus()
  const row = bench.ledger[next]
  if (!row) return
  bench.deviceId = undefined
  bench.roomId = row.room_id
  bench.levelId = row.level_id
}

function choose(roomId: string, levelId: string) {
  bench.roomId = bench.roomId === roomId ? undefined : roomId
  bench.levelId = levelId
  bench.deviceId = undefined
}
</script>

<template>
  <aside aria-label="Room ledger">
    <header>
      <h2 data-key="↑ ↓">Rooms, worst first</h2>
      <p class="small quiet">
        Mb/s down at each room’s worst spot, {{ testWord[bench.kind].toLowerCase() }},
        {{ bench.situation === 'alone' ? 'nothing else busy' : 'busy evening' }}
      </p>
    </header>
    <table class="sheet" @keydown="step">
      <thead>
        <tr>
          <th scope="col">room</th>
          <th scope="col" class="number">needs</th>
          <th scope="col" class="number">{{ setup?.letter }} predicted</th>
          <th scope="col" class="number">{{ setup?.letter }} measured</th>
          <th scope="col">need</th>
        </tr>
      </thead>
      <tbody v-if="setup">
        <template v-for="row in bench.ledger" :key="row.room_id">
          <tr
            :class="{ chosen: row.room_id === bench.roomId, asks: row.undrawn }"
            @click="choose(row.room_id, row.level_id)"
          >
            <th scope="row">
              <button type="button" :aria-pressed="row.room_id === bench.roomId">
                {{ row.name }}
              </button>
              <span>{{ uses(row.room_id) }}</span>
            </th>
            <td class="number">
              {{ speed(row.need?.down_mbps) }}
              <span v-if="row.need">{{ speed(row.need.up_mbps) }} up</span>
            </td>
            <td v-if="row.no_port" class="number quiet">no port here</td>
            <td v-else class="number" :class="{ strong: !byMeasured(row) }">
              {{ speed(row.predicted.down.middle) }}
              <span>{{ speed(row.predicted.down.poor) }}–{{ speed(row.predicted.down.good) }}</span>
              <span v-if="row.predicted.served?.at_its_end" class="ask">end of range</span>
            </td>
            <td class="number" :class="{ strong: byMeasured(row) }">
              {{ speed(row.measured?.down_mbps.median) }}
              <span v-if="row.measured" class="runs" :title="row.measured_under ?? undefined"
                >{{ row.measured.runs }} run{{ row.measured.runs === 1 ? '' : 's'
                }}{{ row.made_up ? ', made up' : '' }}{{ row.measured_under ? '*' : '' }}</span
              >
            </td>
            <td :class="verdict(row) ?? 'quiet'">
              {{ verdict(row) ? verdictWord[verdict(row)!] : '–' }}
              <span class="basis">{{ basis(row) }}</span>
              <span v-if="!byMeasured(row) && row.dead_area_m2" class="dead">
                not in {{ area(row.dead_area_m2, view.home.units) }}
              </span>
            </td>
          </tr>
          <tr v-if="row.undrawn" class="asking" :class="{ chosen: row.room_id === bench.roomId }">
            <td colspan="5">
              <router-link
                class="ask"
                :to="{ name: 'house', params: { home: view.id } }"
                :title="`Nobody said it yet, and it decides between ${speed(row.undrawn.low_mbps)} and ${speed(row.undrawn.high_mbps)} Mb/s here.`"
                @click.stop="bench.roomId = row.undrawn.room_id"
              >
                {{ row.undrawn.ask }}: {{ speed(row.undrawn.low_mbps) }} or
                {{ speed(row.undrawn.high_mbps) }}
              </router-link>
            </td>
          </tr>
        </template>
      </tbody>
      <tbody v-else>
        <tr
          v-for="room in bare"
          :key="room.room_id"
          :class="{ chosen: room.room_id === bench.roomId }"
          @click="choose(room.room_id, room.level_id)"
        >
          <th scope="row">
            <button type="button" :aria-pressed="room.room_id === bench.roomId">{{ room.name }}</button>
            <span>{{ uses(room.room_id) }}</span>
          </th>
          <td class="number">{{ speed(need(room.room_id)?.down_mbps) }}</td>
          <td class="number">–</td>
          <td class="number">–</td>
          <td class="quiet">–</td>
        </tr>
      </tbody>
    </table>
    <p v-if="!setup" class="small quiet empty">Make a setup above and place a router to see predictions.</p>
    <p v-else class="small quiet empty">
      <template v-if="bench.ledger.some((row) => row.measured_under)">
        * Measured under other conditions than asked for: {{ otherConditions }}.
      </template>
      <template v-if="bench.ledger.some((row) => row.predicted.served?.at_its_end)">
        End of range: a phone there may slip to another band or to mobile data, and a step further nothing is
        left.
      </template>
      Small figures: the likely range, 10 to 90 %. Estimates{{
        heard
          ? ` with ${heard} ${heard === 1 ? 'neighbour’s network' : 'neighbours’ networks'} in the air.`
          : ' for quiet air: no neighbours’ networks noted yet.'
      }}
    </p>
  </aside>
</template>

<style scoped>
.ask {
  display: block;
  font-weight: 400;
  font-size: 0.78rem;
  white-space: normal;
  color: var(--comb);
}

.asks > * {
  border-bottom: 0;
}

.sheet .asking td {
  padding: 0 12px 6px;
}

td .dead {
  white-space: normal;
}

aside {
  grid-area: ledger;
  width: 350px;
  border-left: 1px solid var(--line);
  background: #fff;
  overflow: auto;
}

header {
  padding: 12px 12px 6px;
}

header p {
  margin: 2px 0 0;
}

th[scope='row'] {
  text-align: left;
  color: var(--ink);
  font-size: 0.9rem;
}

.sheet td,
.sheet th {
  padding: 5px 6px;
  font-size: 0.88rem;
  vertical-align: top;
}

.sheet thead th {
  font-size: 0.75rem;
  line-height: 1.15;
  vertical-align: bottom;
}

.sheet th:first-child {
  padding-left: 12px;
}

tbody tr {
  cursor: pointer;
}

tbody tr:hover {
  background: var(--paper);
}

tr.chosen,
tr.chosen:hover {
  background: var(--select);
}

th button {
  font-weight: 600;
  text-align: left;
}

th span,
td span {
  display: block;
  font-size: 0.72rem;
  font-weight: 400;
  color: var(--quiet);
  line-height: 1.2;
}

td {
  white-space: nowrap;
}

td .runs {
  white-space: normal;
}

.strong {
  font-weight: 700;
}

.empty {
  padding: 8px 12px;
}

@media (max-width: 1180px) {
  aside {
    width: 302px;
  }

  .sheet td,
  .sheet th {
    padding: 5px 4px;
  }

  .sheet th span,
  .sheet td span.runs {
    display: none;
  }
}

@media (max-width: 900px) {
  aside {
    width: auto;
    border-left: 0;
    border-top: 1px solid var(--line);
  }
}
</style>

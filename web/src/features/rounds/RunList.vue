<script setup lang="ts">
import { reactive, ref } from 'vue'

import type { ApiProblem } from '../../api/client'
import type { RoundView, Run, SpotRow } from '../../api/types'
import { speed, when } from '../../shared/words'
import { PictureStrip, useHome } from '../bench'
import type { RoundHandle } from './useRound'

const props = defineProps<{ spot: SpotRow; open: RoundView; round: RoundHandle }>()
const emit = defineEmits<{ close: []; correct: [run: Run] }>()
const home = useHome()

const voiding = reactive<{ run: Run | undefined; reason: string; problem: string }>({
  run: undefined,
  reason: '',
  problem: '',
})
const problem = ref('')

async function voidRun() {
  if (!voiding.run) return
  try {
    await props.round.voidRun(voiding.run.id, voiding.reason)
    voiding.run = undefined
  } catch (error) {
    voiding.problem = (error as ApiProblem).message
  }
}

async function countAgain(run: Run) {
  try {
    await props.round.voidRun(run.id, null)
    problem.value = ''
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
}

const sourceWord: Record<Run['source'], string> = {
  walker: 'stand-in phone, made up',
  phone: 'measured by a phone',
  typed: 'typed in',
}
const servingName = (run: Run) =>
  props.open.tested.home.setups[0]?.devices.find((own) => own.id === run.serving)?.name ?? 'not known'
const planWords = (run: Run) => {
  const briefs = [home.view.value?.home.brief, props.open.tested.home.brief]
  const plans = briefs.flatMap((own) => [...(own?.plans ?? []), ...(own?.second_line?.plans ?? [])])
  const plan = plans.find((own) => own.id === run.plan_id)
  return plan ? `${speed(plan.down_mbps)}/${speed(plan.up_mbps)} since ${plan.from}` : 'none on record'
}
const checked = (run: Run) => props.spot.checks.find((own) => own.run_id === run.id)?.words
const mark = (run: Run) =>
  [
    run.mark?.name,
    run.mark?.distance_m == null ? '' : `${run.mark.distance_m.toFixed(0)} m`,
    run.mark?.beside_node ? 'beside the node' : '',
  ]
    .filter(Boolean)
    .join(', ')
/** What came of a run that has no figures. */
const without = (run: Run) =>
  run.outcome.kind === 'no_connection' ? 'no connection' : (checked(run) ?? 'looked up only')
</script>

<template>
  <v-card :title="`Runs at ${spot.name}`">
    <v-card-text>
      <table class="sheet">
        <thead>
          <tr>
            <th scope="col">at</th>
            <th scope="col" class="number">down / up</th>
            <th scope="col" class="number">idle ms</th>
            <th scope="col">served by</th>
            <th scope="col" class="number">signal, link rate</th>
            <th scope="col">plan in force</th>
            <th scope="col">counts</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="run in spot.runs" :key="run.id">
            <td>
              {{ when(run.at) }}<br /><span class="small quiet"
                >{{ sourceWord[run.source] }}{{ run.under?.tool ? ` from ${run.under.tool}` : ''
                }}{{ run.under ? `, ${run.under.kind} test` : '' }}</span
              >
              <span v-if="mark(run)" class="small line">{{ mark(run) }}</span>
              <span v-if="run.note" class="small line">“{{ run.note }}”</span>
              <a
                v-if="run.source === 'phone'"
                class="small line"
                :href="`/api/runs/${run.id}/samples.json`"
                download
                >raw samples</a
              >
            </td>
            <td class="number" :class="{ words: run.outcome.kind !== 'measured' }">
              <template v-if="run.outcome.kind === 'measured'">
                {{ speed(run.outcome.down_mbps) }} / {{ speed(run.outcome.up_mbps) }}
              </template>
              <template v-else>{{ without(run) }}</template>
              <small v-for="before in run.corrected" :key="before.at" class="quiet was">
                was
                {{
                  before.was.kind === 'measured'
                    ? `${speed(before.was.down_mbps)} / ${speed(before.was.up_mbps)}`
                    : 'no connection'
                }}
              </small>
            </td>
            <td class="number">
              {{ run.outcome.kind === 'measured' ? (run.outcome.idle_ms?.toFixed(0) ?? '–') : '–' }}
            </td>
            <td>{{ servingName(run) }}{{ run.band ? `, ${run.band} GHz` : '' }}</td>
            <td class="number">
              {{ run.signal_dbm == null ? '–' : `${run.signal_dbm} dBm` }}, {{ speed(run.link_rate_mbps) }}
            </td>
            <td>{{ planWords(run) }}</td>
            <td class="counts">
              <template v-if="run.void">
                no: {{ run.void }}
                <v-btn size="x-small" @click="countAgain(run)">Count it</v-btn>
              </template>
              <template v-else-if="!['home_wifi', 'cable'].includes(run.carried_by)"
                >no: another network carried it</template
              >
              <template v-else>
                <v-btn size="x-small" @click="Object.assign(voiding, { run, reason: '', problem: '' })">
                  Don’t count
                </v-btn>
                <v-btn v-if="run.source === 'typed'" size="x-small" @click="emit('correct', run)">
                  Put right
                </v-btn>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <form v-if="voiding.run" class="void" @submit.prevent="voidRun">
        <v-text-field v-model="voiding.reason" label="Why this run does not count" autofocus />
        <v-btn type="submit" size="small">Leave it out</v-btn>
        <p v-if="voiding.problem" class="note bad" role="alert">{{ voiding.problem }}</p>
      </form>
      <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
      <p class="small quiet">Link rate is what the radios negotiate: an explanation, never a speed.</p>
      <PictureStrip
        :names="new Map([[spot.spot_id, spot.name]])"
        :adding="{ spot: spot.spot_id }"
        :label="`Pictures of ${spot.name}`"
      />
      <div class="end"><v-btn size="small" @click="emit('close')">Close</v-btn></div>
    </v-card-text>
  </v-card>
</template>

<style scoped>
/* Words and buttons go under one another before they leave the dialog. */
.sheet td,
.counts {
  white-space: normal;
}

.sheet td,
.sheet th {
  padding: 4px 6px;
  font-size: 0.86rem;
}

.sheet td {
  white-space: nowrap;
}

.sheet .words {
  white-space: normal;
  text-align: left;
  min-width: 150px;
}

.line,
.was {
  display: block;
}

.was {
  text-decoration: line-through;
}

.void {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 8px;
  margin: 10px 0;
  align-items: center;
}

.void p {
  grid-column: 1 / -1;
}

.end {
  text-align: right;
}

@media (max-width: 900px) {
  tbody .v-btn {
    min-height: 48px;
  }
}
</style>

<script setup lang="ts">
import { computed, reactive } from 'vue'

import { ApiProblem } from '../../api/client'
import type { Band, NewRun, RoundView, Setup, SpotRow } from '../../api/types'

const props = defineProps<{
  spot: SpotRow
  round: RoundView['round']
  setup: Setup
  add: (run: NewRun) => Promise<void>
}>()
const emit = defineEmits<{ close: [] }>()

const form = reactive({
  down: '',
  up: '',
  idle: '',
  loaded: '',
  signal: '',
  link: '',
  serving: '' as string,
  band: '' as Band | '',
  carriedBy: 'home_wifi' as NewRun['carried_by'],
  problem: '',
  sent: 0,
})
const devices = computed(() => [
  { title: 'not known', value: '' },
  ...props.setup.devices.map((own) => ({ title: own.name, value: own.id })),
])
const carriers = [
  { title: 'the home’s own Wi-Fi', value: 'home_wifi' },
  { title: 'mobile data', value: 'mobile_data' },
  { title: 'another Wi-Fi', value: 'other_wifi' },
]
const bands = [
  { title: 'not known', value: '' },
  { title: '2.4 GHz', value: '2.4' },
  { title: '5 GHz', value: '5' },
  { title: '6 GHz', value: '6' },
]

/** A typed number; a decimal comma will do. Nothing when empty, not a number when it is none. */
function number(text: string): number | null {
  const trimmed = text.trim().replace(',', '.')
  return trimmed === '' ? null : Number(trimmed)
}

async function send(outcome: NewRun['outcome'] | undefined) {
  if (!outcome) return
  const run: NewRun = {
    spot_id: props.spot.spot_id,
    source: 'typed',
    outcome,
    carried_by: form.carriedBy,
    serving: form.serving || null,
    band: form.band || null,
    signal_dbm: number(form.signal),
    link_rate_mbps: number(form.link),
    trace_mbps: [],
  }
  try {
    await props.add(run)
    Object.assign(form, { down: '', up: '', idle: '', loaded: '', problem: '', sent: form.sent + 1 })
  } catch (error) {
    form.problem = (error as ApiProblem).message
  }
}

function measured(): NewRun['outcome'] | undefined {
  const fields = [form.down, form.up, form.idle, form.loaded, form.signal, form.link].map(number)
  const [down, up, idle, loaded] = fields
  if (fields.some((value) => value !== null && Number.isNaN(value))) {
    form.problem = 'One of these is not a number; write figures only, such as 84.5.'
    return undefined
  }
  if (down == null || up == null || idle == null) {
    form.problem =
      'Download, upload and idle delay are needed; without a connection, press “No connection here”.'
    return undefined
  }
  return {
    kind: 'measured',
    down_mbps: down,
    up_mbps: up,
    idle_ms: idle,
    loaded_ms: loaded ?? null,
    jitter_ms: null,
    loss_percent: null,
  }
}
</script>

<template>
  <v-card :title="`${spot.name}: run ${spot.runs.length + form.sent + 1} of ${round.runs_per_spot}`">
    <v-card-text>
      <form class="form" @submit.prevent="send(measured())">
        <v-text-field v-model="form.down" label="Download, Mb/s" inputmode="decimal" autofocus />
        <v-text-field v-model="form.up" label="Upload, Mb/s" inputmode="decimal" />
        <v-text-field v-model="form.idle" label="Idle delay, ms" inputmode="decimal" />
        <v-text-field v-model="form.loaded" label="Delay under load, ms" inputmode="decimal" />
        <v-text-field v-model="form.signal" label="Signal, dBm" inputmode="text" />
        <v-text-field v-model="form.link" label="Link rate, Mb/s" inputmode="decimal" />
        <v-select v-model="form.serving" :items="devices" label="Served by" />
        <v-select v-model="form.band" :items="bands" label="Band" />
        <v-select v-model="form.carriedBy" :items="carriers" label="Carried by" class="wide" />
        <p v-if="form.problem" class="note bad wide" role="alert">{{ form.problem }}</p>
        <p v-if="form.sent" class="small wide" role="status">
          {{ form.sent }} run{{ form.sent === 1 ? '' : 's' }} kept.
        </p>
        <div class="wide buttons">
          <v-btn @click="emit('close')">Done</v-btn>
          <v-btn @click="send({ kind: 'no_connection' })">No connection here</v-btn>
          <v-btn type="submit" variant="flat" color="primary">Keep this run</v-btn>
        </div>
      </form>
    </v-card-text>
  </v-card>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  padding-top: 6px;
}

.wide {
  grid-column: 1 / -1;
  margin: 0;
}

.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  flex-wrap: wrap;
}

@media (max-width: 600px) {
  .v-btn {
    min-height: 48px;
    flex: 1;
  }
}
</style>

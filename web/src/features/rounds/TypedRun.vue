<script setup lang="ts">
import { computed, inject, nextTick, onBeforeUnmount, reactive, ref, type Ref, watch } from 'vue'
import { useLocalStorage } from '@vueuse/core'
import { v4 as newId } from 'uuid'

import { ApiProblem } from '../../api/client'
import type { Band, NewRun, RoundView, Run, SpotRow } from '../../api/types'
import { shownNumber, READER, useReading } from '../../shared/numbers'
import TypedField from '../../shared/TypedField.vue'
import { speed } from '../../shared/words'

const props = defineProps<{
  spot: SpotRow
  round: RoundView
  /** The run that is put right; a new one is typed in when there is none. */
  run?: Run
  add: (run: NewRun, confirmed: boolean) => Promise<void>
  correct: (run: string, outcome: NewRun['outcome'], confirmed: boolean) => Promise<void>
}>()
const emit = defineEmits<{ close: []; plan: [] }>()

const old = props.run?.outcome.kind === 'measured' ? props.run.outcome : undefined
const decimals = inject(READER)!.decimals
const text = (value: number | null | undefined) => shownNumber(value, decimals.value)
const figures = {
  down: text(old?.down_mbps),
  up: text(old?.up_mbps),
  idle: text(old?.idle_ms),
  loaded: text(old?.loaded_ms),
  signal: '',
  link: '',
  note: '',
}
const names = Object.keys(figures) as (keyof typeof figures)[]
const begun = {
  ...figures,
  serving: '',
  band: '' as Band | '',
  carriedBy: 'home_wifi' as NewRun['carried_by'],
  // The run keeps its name until there is an answer: sent again after a lost one, it is kept once.
  id: newId(),
}
// What is typed stays on this machine until it is kept, so that a reload in the middle of it takes nothing.
const shelf = ['busy-hen run', props.round.round.id, props.spot.spot_id, props.run?.id ?? 'new'].join(' ')
const form = useLocalStorage<typeof begun | null>(shelf, begun, {
  writeDefaults: false,
  listenToStorageChanges: false,
  serializer: { read: (held) => ({ ...begun, ...JSON.parse(held) }), write: JSON.stringify },
}) as Ref<typeof begun>
const untouched = () => names.every((name) => form.value[name] === figures[name])
const told = reactive({
  problem: '',
  /** What is asked about a reading that is more than there can be. */
  asked: '',
  sent: 0,
  busy: false,
  fromBefore: !untouched(),
})
onBeforeUnmount(() => {
  if (untouched()) localStorage.removeItem(shelf)
})
const first = ref<{ focus(): void } | null>(null)
const setup = computed(() => props.round.tested.home.setups[0])
const devices = computed(() => [
  { title: 'not known', value: '' },
  ...(setup.value?.devices.map((own) => ({ title: own.name, value: own.id })) ?? []),
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
const title = computed(() => {
  if (props.run) return `${props.spot.name}: put a run right`
  const number = props.spot.run_count + 1
  const wanted = props.round.round.runs_per_spot
  return `${props.spot.name}: run ${number}${number > wanted ? `, beyond the ${wanted} wanted` : ` of ${wanted}`}`
})

const { told: numbers, read } = useReading({
  down: 'speed',
  up: 'speed',
  idle: 'delay',
  loaded: 'delay',
  signal: 'signal',
  link: 'speed',
})

/** Keeps what is typed, or that there was no connection. */
async function send(what: 'measured' | 'no_connection', confirmed = false) {
  if (told.busy) return false
  told.busy = true
  told.problem = ''
  try {
    const got = await read(form.value)
    const outcome = got && (what === 'measured' ? measured(got) : ({ kind: 'no_connection' } as const))
    if (!outcome) return false
    if (props.run) {
      await props.correct(props.run.id, outcome, confirmed)
      Object.assign(form.value, figures)
      emit('close')
      return true
    }
    const run: NewRun = {
      id: form.value.id,
      spot_id: props.spot.spot_id,
      source: 'typed',
      outcome,
      carried_by: form.value.carriedBy,
      serving: form.value.serving || null,
      band: form.value.band || null,
      signal_dbm: got.signal,
      link_rate_mbps: got.link,
      trace_mbps: [],
      note: form.value.note || null,
    }
    await props.add(run, confirmed)
    Object.assign(form.value, figures, { id: newId() })
    Object.assign(told, { problem: '', asked: '', fromBefore: false, sent: told.sent + 1 })
    // The next run begins in the first field.
    await nextTick()
    first.value?.focus()
    return true
  } catch (error) {
    const { code, message } = error as ApiProblem
    if (code !== 'offline') form.value.id = newId()
    Object.assign(told, code === 'over_ceiling' ? { asked: message, problem: '' } : { problem: message })
    return false
  } finally {
    told.busy = false
  }
}

/** What was asked about a figure goes with it. */
watch(
  () => [form.value.down, form.value.up],
  () => (told.asked = ''),
)

function correctIt() {
  told.asked = ''
  first.value?.focus()
}

function measured({ down, up, idle, loaded }: Record<'down' | 'up' | 'idle' | 'loaded', number | null>) {
  if (down == null || up == null) {
    told.problem = 'Download and upload are needed; without a connection, press “No connection here”.'
    return undefined
  }
  return {
    kind: 'measured',
    down_mbps: down,
    up_mbps: up,
    idle_ms: idle,
    loaded_ms: loaded,
    jitter_ms: old?.jitter_ms ?? null,
    loss_percent: old?.loss_percent ?? null,
  } as const
}

/** What is typed and not kept yet is kept first. */
async function done() {
  if (untouched() || (await send('measured'))) emit('close')
}

function carriedByAnother() {
  form.value.carriedBy = 'other_wifi'
  told.asked = ''
  void send('measured')
}
</script>

<template>
  <v-card :title="title">
    <v-card-text>
      <form class="form" @submit.prevent="send('measured')">
        <p v-if="told.fromBefore" class="small wide" role="status">Typed before and not kept yet.</p>
        <TypedField
          ref="first"
          v-model="form.down"
          :told="numbers.down"
          label="Download, Mb/s (needed)"
          autofocus
        />
        <TypedField v-model="form.up" :told="numbers.up" label="Upload, Mb/s (needed)" />
        <TypedField v-model="form.idle" :told="numbers.idle" label="Idle delay, ms" />
        <TypedField v-model="form.loaded" :told="numbers.loaded" label="Delay under load, ms" />
        <template v-if="!run">
          <TypedField v-model="form.signal" :told="numbers.signal" label="Signal, dBm" />
          <TypedField v-model="form.link" :told="numbers.link" label="Link rate, Mb/s" />
          <v-select v-model="form.serving" :items="devices" label="Served by" />
          <v-select v-model="form.band" :items="bands" label="Band" />
          <v-select v-model="form.carriedBy" :items="carriers" label="Carried by" />
          <v-text-field v-model="form.note" label="Note" maxlength="200" />
        </template>
        <p v-if="old" class="small wide">
          It said {{ speed(old.down_mbps) }} / {{ speed(old.up_mbps) }} Mb/s; that is kept with it.
        </p>
        <p v-if="told.problem" class="note bad wide" role="alert">{{ told.problem }}</p>
        <div v-if="told.asked" class="note wide" role="alert">
          <p>{{ told.asked }}</p>
          <div class="ways">
            <v-btn v-if="!run" size="small" @click="carriedByAnother">Another network carried it</v-btn>
            <v-btn size="small" @click="emit('plan')">The plan has changed</v-btn>
            <v-btn size="small" @click="correctIt">Correct it</v-btn>
            <v-btn size="small" @click="send('measured', true)">Keep it all the same</v-btn>
          </div>
          <p class="small quiet">
            A local test belongs into a round of its own: begin one with “Test to: local”.
          </p>
        </div>
        <p v-if="told.sent" class="small wide" role="status">
          {{ told.sent }} run{{ told.sent === 1 ? '' : 's' }} kept.
        </p>
        <div class="wide buttons">
          <v-btn :disabled="told.busy" @click="done">Done</v-btn>
          <v-btn v-if="!run" :disabled="told.busy" @click="send('no_connection')"> No connection here </v-btn>
          <v-btn type="submit" variant="flat" color="primary" :disabled="told.busy">
            {{ run ? 'Put it right' : 'Keep this run' }}
          </v-btn>
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

.buttons,
.ways {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  flex-wrap: wrap;
}

.ways {
  justify-content: flex-start;
  margin: 6px 0;
}

.note p {
  margin: 0;
}

@media (max-width: 600px) {
  .form {
    grid-template-columns: 1fr;
  }

  .v-btn {
    min-height: 48px;
    flex: 1 0 auto;
  }
}
</style>

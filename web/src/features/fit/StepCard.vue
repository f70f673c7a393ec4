<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Setup, SheetStep, Straggling, Tick, TickOutcome } from '../../api/types'
import { PictureStrip } from '../bench'
import { stragglingWord } from './words'

/** The step at hand: how it is done, what to mind, and what became of it, with one thumb. */
const props = defineProps<{ step: SheetStep; tick?: Tick; setup: Setup; place: string }>()
const emit = defineEmits<{ say: [outcome: TickOutcome | null, note: string]; next: [by: number] }>()

const note = ref('')
const because = ref('')
const skipping = ref(false)
const joinedTo = ref('')
const why = ref<Straggling | ''>('')
watch(
  () => props.step.key,
  () => {
    note.value = props.tick?.note ?? ''
    because.value = ''
    skipping.value = false
    joinedTo.value = ''
    why.value = ''
  },
  { immediate: true },
)
/** Where a phone may have joined: each device that serves, with its bands. */
const servers = computed(() =>
  props.setup.devices.flatMap((device) =>
    device.radios
      .filter((radio) => radio.on && radio.serves)
      .map((radio) => ({
        key: `${device.id} ${radio.band}`,
        title: `${device.name}, ${radio.band} GHz`,
        device,
        radio,
      })),
  ),
)
const pictured = computed(() => {
  const own = props.setup.devices.find((device) => device.id === props.step.device_id)
  return own ? new Map([[own.id, own.name]]) : undefined
})

function done() {
  if (props.step.kind === 'look') emit('say', { kind: 'seen' }, note.value)
  else if (props.step.kind === 'join') {
    const own = servers.value.find((one) => one.key === joinedTo.value)
    emit('say', { kind: 'joined', to: own?.device.id ?? null, band: own?.radio.band ?? null }, note.value)
  } else emit('say', { kind: 'done' }, note.value)
}
function notSo() {
  if (props.step.kind === 'look') emit('say', { kind: 'not_seen' }, note.value)
  else if (props.step.kind === 'join' && why.value)
    emit('say', { kind: 'straggles', why: why.value }, note.value)
}
function skip() {
  if (!because.value.trim()) return
  emit('say', { kind: 'skipped', because: because.value.trim() }, note.value)
}
const doneWord = computed(() =>
  props.step.kind === 'look' ? 'Seen' : props.step.kind === 'join' ? 'Joined' : 'Done',
)
</script>

<template>
  <section class="card" aria-label="The step at hand">
    <p class="small quiet">{{ place }}</p>
    <h2>{{ step.what }}</h2>
    <p v-if="step.caution" class="caution" role="note"><b>Mind:</b> {{ step.caution }}</p>
    <ul v-if="step.how.length">
      <li v-for="own in step.how" :key="own">{{ own }}</li>
    </ul>
    <div v-if="step.kind === 'join'" class="fields">
      <v-select
        v-model="joinedTo"
        :items="servers.map((own) => ({ value: own.key, title: own.title }))"
        label="Joined at"
        clearable
      />
      <v-select
        v-model="why"
        :items="Object.entries(stragglingWord).map(([value, title]) => ({ value, title }))"
        label="Or why not"
        clearable
      />
    </div>
    <v-text-field v-model="note" label="Note (never a password)" maxlength="500" />
    <v-text-field
      v-if="skipping"
      v-model="because"
      label="Why it is left out"
      maxlength="500"
      autofocus
      @keydown.enter="skip"
    />
    <PictureStrip
      v-if="pictured && step.device_id"
      :names="pictured"
      :adding="{ device: step.device_id }"
      label="Pictures of the device"
    />
    <div class="thumb">
      <button type="button" class="big main" @click="done">{{ doneWord }}</button>
      <button v-if="step.kind === 'look'" type="button" class="big" @click="notSo">Not so</button>
      <button v-else-if="step.kind === 'join'" type="button" class="big" :disabled="!why" @click="notSo">
        Not joined
      </button>
      <button v-if="skipping" type="button" class="big" :disabled="!because.trim()" @click="skip">
        Leave it out
      </button>
      <button v-else type="button" class="big quiet" @click="skipping = true">Skip …</button>
      <button v-if="tick" type="button" class="big quiet" @click="emit('say', null, '')">Take back</button>
      <span class="turn">
        <button type="button" class="big quiet" aria-label="The step before" @click="emit('next', -1)">
          ←
        </button>
        <button type="button" class="big quiet" aria-label="The step after" @click="emit('next', 1)">
          →
        </button>
      </span>
    </div>
  </section>
</template>

<style scoped>
.card {
  background: #fff;
  border: 1px solid var(--line);
  border-top: 4px solid var(--ink);
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  position: sticky;
  top: 0;
  z-index: 1;
}

h2,
p {
  margin: 0;
}

h2 {
  font-size: 1.15rem;
}

ul {
  margin: 0;
  padding-left: 18px;
  display: grid;
  gap: 3px;
  font-size: 0.92rem;
}

.caution {
  border-left: 4px solid var(--comb);
  padding: 2px 10px;
  font-size: 0.92rem;
}

.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}

.thumb {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.big.main {
  background: var(--leaf);
  border-color: var(--leaf);
  color: #fff;
  font-weight: 600;
  min-width: 120px;
}

.big:disabled {
  opacity: 0.5;
}

.turn {
  display: flex;
  gap: 4px;
  margin-left: auto;
}

@media (max-width: 600px) {
  .card {
    position: static;
  }

  .big.main {
    flex: 1 1 100%;
  }
}
</style>

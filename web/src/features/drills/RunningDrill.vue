<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Drill, Setup, Sight } from '../../api/types'
import { seconds, sentence } from '../../shared/words'
import { sightWord } from './words'

/** The drill that runs: its clock, big marks for one thumb, and what was seen so far. */
const props = defineProps<{
  drill: Drill
  elapsed: number
  doing: string
  setup: Setup
  /** Devices that the bench knocks at, and whether each answers. */
  knocked: string[]
  answers: Record<string, boolean>
  /** How what this page holds stands, in words. */
  heard: string[]
}>()
const emit = defineEmits<{
  mark: [seen: Sight]
  unmark: [index: number]
  end: [stopped: boolean, note: string]
}>()

const note = ref('')
const device = ref('')
const to = ref('')
const sights = computed<Sight['kind'][]>(() => [
  'loss_noticed',
  ...(props.drill.failure.what === 'line' ? (['took_over'] as const) : []),
  'put_back',
  ...(props.drill.failure.what === 'old_network' ? [] : (['first_life'] as const)),
  'all_back',
  'first_choice',
  'session_broke',
])
const press = (kind: Sight['kind']) => {
  if (kind !== 'rejoined') emit('mark', { kind })
}
const nodes = computed(() => props.setup.devices.map((own) => ({ value: own.id, title: own.name })))
const name = (id: string) => props.setup.devices.find((own) => own.id === id)?.name ?? 'a device'
const words = (seen: Sight) =>
  seen.kind === 'rejoined' ? `${name(seen.device)} went by ${name(seen.to)}` : sightWord[seen.kind]
const back = computed(() => props.drill.marks.some((own) => own.seen.kind === 'all_back'))

function rejoined() {
  if (!device.value || !to.value) return
  emit('mark', { kind: 'rejoined', device: device.value, to: to.value })
  device.value = to.value = ''
}
</script>

<template>
  <section class="running" aria-label="The drill that runs">
    <p class="small quiet">{{ sentence(doing) }}</p>
    <p class="clock" role="timer">{{ seconds(elapsed) }}</p>
    <p v-for="id in knocked" :key="id" class="small" role="status">
      {{ name(id) }}
      {{ answers[id] === undefined ? 'is knocked at …' : answers[id] ? 'answers.' : 'does not answer.' }}
    </p>
    <div class="marks">
      <button v-for="kind in sights" :key="kind" type="button" class="big" @click="press(kind)">
        {{ sightWord[kind] }}
      </button>
    </div>
    <div class="way">
      <v-select v-model="device" :items="nodes" label="Went another way" />
      <v-select v-model="to" :items="nodes.filter((own) => own.value !== device)" label="By which" />
      <v-btn size="small" :disabled="!device || !to" @click="rejoined">Mark it</v-btn>
    </div>
    <ol v-if="drill.marks.length" aria-label="Seen so far">
      <li v-for="(own, index) in drill.marks" :key="`${own.after_ms} ${words(own.seen)}`">
        <b>{{ seconds(own.after_ms / 1000) }}</b> {{ words(own.seen) }}
        <span v-if="own.by_probe" class="small quiet">seen by the bench</span>
        <button type="button" class="text small" @click="emit('unmark', index)">not so</button>
      </li>
    </ol>
    <p v-for="own in heard" :key="own.split(':')[0]" class="small" role="status">{{ own }}</p>
    <v-text-field v-model="note" label="Note" maxlength="500" />
    <div class="marks">
      <button type="button" class="big main" @click="emit('end', !back, note)">
        {{ back ? 'Keep this drill' : 'Break it off and keep what was seen' }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.running {
  background: #fff;
  border: 1px solid var(--line);
  border-top: 4px solid var(--comb);
  padding: 12px 16px;
  display: grid;
  gap: 8px;
}

p {
  margin: 0;
}

.clock {
  font-size: 3rem;
  font-weight: 700;
  font-variant-numeric: tabular-nums;
  line-height: 1;
}

.marks {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(140px, 1fr));
  gap: 8px;
}

.big.main {
  background: var(--ink);
  color: #fff;
  font-weight: 600;
}

.way {
  display: grid;
  grid-template-columns: 1fr 1fr auto;
  gap: 10px;
  align-items: end;
}

li .text {
  margin-left: 8px;
}

ol {
  margin: 0;
  padding-left: 18px;
}
</style>

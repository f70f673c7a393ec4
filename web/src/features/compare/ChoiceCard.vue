<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api } from '../../api/client'
import type { SideBySide, Weights } from '../../api/types'
import { useHome } from '../bench'

/** Which setup to keep and why, by the installer's own weighting, and what the installer decided. */
const props = defineProps<{ result: SideBySide }>()
const weights = defineModel<Weights>('weights', { required: true })

const home = useHome()
const choice = computed(() => props.result.choice)
const decided = computed(() => props.result.decision)
const named = (id: string | null | undefined) => {
  const own = props.result.columns.find((column) => column.setup_id === id)
  return own ? `${own.letter}, ${own.name}` : 'a setup that is not shown here'
}
const open = ref(false)
const setup = ref('')
const because = ref('')
watch(
  () => props.result.choice.keep,
  (keep) => {
    if (!open.value) setup.value = decided.value?.setup_id ?? keep ?? ''
  },
  { immediate: true },
)
const merits: { key: keyof Weights; name: string }[] = [
  { key: 'price', name: 'price' },
  { key: 'speed', name: 'speed' },
  { key: 'steadiness', name: 'steadiness' },
  { key: 'ease', name: 'ease' },
]
const words = ['nothing', 'some', 'much', 'most']

async function decide(decision: { setup_id: string; because: string } | null) {
  const done = await home.change((header) =>
    api.PUT('/api/homes/{home}/decision', {
      params: { path: { home: home.id }, header },
      body: { decision },
    }),
  )
  if (done) {
    open.value = false
    because.value = ''
  }
}
</script>

<template>
  <section class="card" aria-label="Which to keep">
    <h2 v-if="choice.keep">{{ choice.measured ? 'Keep' : 'Expected best:' }} {{ named(choice.keep) }}</h2>
    <h2 v-else>Nothing to choose from yet</h2>
    <p v-if="choice.keep && !choice.measured" class="note small">
      By prediction{{ result.columns.some((own) => own.made_up) ? ' and made-up readings' : '' }}: no verdict
      until it is measured.
    </p>
    <ul>
      <li v-for="(own, index) in choice.sentences" :key="own">
        {{ index === 0 ? own.replace(/^Keep [^:]*: it/, 'It') : own }}
      </li>
    </ul>
    <ul v-if="choice.otherwise.length || choice.retest.length" class="quiet small">
      <li v-for="own in choice.otherwise" :key="own">{{ own }}</li>
      <li v-for="own in choice.retest" :key="own">{{ own }}</li>
    </ul>
    <fieldset>
      <legend>What counts how much, once needs are met</legend>
      <label v-for="merit in merits" :key="merit.key">
        {{ merit.name }}
        <input
          v-model.number="weights[merit.key]"
          type="range"
          min="0"
          max="3"
          step="1"
          :aria-valuetext="words[weights[merit.key]]"
        />
        <span>{{ words[weights[merit.key]] }}</span>
      </label>
    </fieldset>
    <p v-if="decided" class="decided">
      <b>Decided: {{ named(decided.setup_id) }}.</b> {{ decided.because }}
      <button type="button" class="text" @click="decide(null)">Take back</button>
    </p>
    <button v-else-if="!open" type="button" class="text" @click="open = true">
      Decide, also otherwise …
    </button>
    <form v-if="open" @submit.prevent="decide({ setup_id: setup, because })">
      <v-select
        v-model="setup"
        label="Keep"
        :items="
          result.columns
            .filter((own) => !own.round_id)
            .map((own) => ({ title: `${own.letter} ${own.name}`, value: own.setup_id }))
        "
      />
      <v-text-field v-model="because" label="Why" maxlength="300" />
      <v-btn type="submit" :disabled="!because.trim() || !setup">Keep it</v-btn>
      <button type="button" class="text" @click="open = false">Cancel</button>
    </form>
  </section>
</template>

<style scoped>
.card {
  background: #fff;
  border: 1px solid var(--line);
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  font-size: 0.9rem;
}

h2 {
  font-size: 1.15rem;
}

ul {
  padding-left: 18px;
  display: grid;
  gap: 4px;
}

fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  padding: 8px 0 0;
  display: grid;
  gap: 2px;
  font-size: 0.84rem;
}

legend {
  color: var(--quiet);
  font-size: 0.8rem;
  padding-right: 8px;
}

label {
  display: grid;
  grid-template-columns: 76px 1fr 56px;
  gap: 8px;
  align-items: center;
}

input[type='range'] {
  accent-color: var(--plum);
  min-width: 0;
}

form {
  display: grid;
  gap: 8px;
  justify-items: start;
}

form > :first-child,
form > :nth-child(2) {
  width: 100%;
}
</style>

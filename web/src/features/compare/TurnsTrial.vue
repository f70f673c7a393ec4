<script setup lang="ts">
import { v4 as newId } from 'uuid'
import { computed, ref } from 'vue'

import { answer, api } from '../../api/client'
import type { SideBySide, Trial } from '../../api/types'
import { useReading } from '../../shared/numbers'
import TypedField from '../../shared/TypedField.vue'
import { speed } from '../../shared/words'
import { useBench, useHome } from '../bench'

/** Two setups run by turns at one spot, where switching is cheap: what a visit does falls on both alike. */
const props = defineProps<{ result: SideBySide; reference: string }>()
const emit = defineEmits<{ changed: [] }>()

const home = useHome()
const bench = useBench()
const open = ref(false)
const busy = ref(false)
const other = ref('')
const spot = ref('')
const pairs = ref(6)
const down = ref('')
const up = ref('')
const problem = ref('')
const others = computed(() =>
  props.result.columns
    .filter((own) => own.setup_id !== props.reference && !own.round_id)
    .map((own) => ({ title: `${own.letter} ${own.name}`, value: own.setup_id })),
)
const spots = computed(() =>
  props.result.rows.map((own) => ({
    title: own.name + (own.spot_name ? `, ${own.spot_name}` : ''),
    value: own.spot_id,
  })),
)

async function begin() {
  busy.value = true
  problem.value = ''
  const trial = newId()
  try {
    for (const setup_id of [props.reference, other.value])
      await answer(
        api.POST('/api/homes/{home}/rounds', {
          params: { path: { home: home.id } },
          body: {
            setup_id,
            client: bench.client,
            band: null,
            kind: bench.kind,
            doors: bench.doors,
            situation: bench.situation,
            runs_per_spot: pairs.value,
            spots: [spot.value],
            trial,
          },
        }),
      )
    open.value = false
    emit('changed')
  } catch (error) {
    problem.value = (error as Error).message
  }
  busy.value = false
}

const { told, read } = useReading({ down: 'speed', up: 'speed' })
async function keep(trial: Trial) {
  if (trial.turn == null) return
  busy.value = true
  problem.value = ''
  try {
    const got = await read({ down: down.value, up: up.value })
    if (!got) return
    if (got.down == null || got.up == null) {
      problem.value = 'Type download and upload as the test shows them, in Mb/s.'
      return
    }
    await answer(
      api.POST('/api/rounds/{round}/runs', {
        params: { path: { round: trial.round_ids[trial.turn]! } },
        body: {
          runs: [
            {
              id: newId(),
              spot_id: trial.spot_id,
              source: 'typed',
              carried_by: 'home_wifi',
              outcome: {
                kind: 'measured',
                down_mbps: got.down,
                up_mbps: got.up,
                idle_ms: null,
                loaded_ms: null,
                jitter_ms: null,
                loss_percent: null,
              },
            },
          ],
        },
      }),
    )
    down.value = up.value = ''
    emit('changed')
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section aria-label="Trial by turns">
    <h2>By turns</h2>
    <p class="small quiet">
      Where switching is quick, run two setups by turns at one spot: whatever the evening does then falls on
      both alike. Six pairs are the least that can show anything.
    </p>
    <article v-for="trial in result.trials" :key="trial.round_ids[0]">
      <p>
        <b>{{ trial.letters[0] }} and {{ trial.letters[1] }} by turns, {{ trial.place }}</b>
        <span class="quiet small"> {{ trial.pairs.length }} of {{ trial.wanted }} pairs</span>
      </p>
      <p v-if="trial.pairs.length" class="small">
        <span v-for="(pair, index) in trial.pairs" :key="index" class="pair">
          {{ speed(pair[0]) }} → {{ speed(pair[1]) }}
        </span>
      </p>
      <p v-if="trial.against" class="small">
        {{ trial.letters[1] }} against {{ trial.letters[0] }}: <b>{{ trial.against.told }}</b><template
          v-if="trial.against.p != null"
          >, p {{ trial.against.p.toFixed(3) }}</template
        >
      </p>
      <form v-if="trial.turn != null" @submit.prevent="keep(trial)">
        <p class="now">
          Now <b>{{ trial.letters[trial.turn] }}</b>
        </p>
        <TypedField v-model="down" :told="told.down" label="Down, Mb/s" />
        <TypedField v-model="up" :told="told.up" label="Up, Mb/s" />
        <v-btn type="submit" :disabled="busy">Keep</v-btn>
      </form>
    </article>
    <button v-if="!open" type="button" class="text" @click="open = true">Begin a trial by turns …</button>
    <form v-else class="begin" @submit.prevent="begin">
      <v-select v-model="other" label="Against the reference" :items="others" />
      <v-select v-model="spot" label="Spot" :items="spots" />
      <v-select v-model="pairs" label="Pairs" :items="[6, 8, 10]" />
      <v-btn type="submit" :disabled="busy || !other || !spot">Begin</v-btn>
      <button type="button" class="text" @click="open = false">Cancel</button>
    </form>
    <p v-if="problem" class="note bad small" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
  font-size: 0.9rem;
}

h2 {
  font-size: 1rem;
}

article {
  border-left: 3px solid var(--straw);
  padding-left: 10px;
  display: grid;
  gap: 4px;
}

.pair {
  margin-right: 12px;
  white-space: nowrap;
}

form {
  display: grid;
  grid-template-columns: auto 1fr 1fr auto;
  gap: 8px;
  align-items: end;
}

.begin {
  grid-template-columns: 1fr;
  justify-items: start;
}

.begin > :nth-child(-n + 3) {
  width: 100%;
}

@media (max-width: 500px) {
  form {
    grid-template-columns: 1fr 1fr;
  }

  .now {
    grid-column: 1 / -1;
  }
}
</style>

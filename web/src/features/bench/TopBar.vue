<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'

import { api } from '../../api/client'
import type { HomeView } from '../../api/types'
import { useNetwork } from '../network'
import { useBench } from './useBench'
import { useHome } from './useHome'

const props = defineProps<{ view: HomeView | undefined }>()
const emit = defineEmits<{ undo: [to?: number]; redo: []; find: []; help: [] }>()

const bench = useBench()
const home = useHome()
const { network, shown: networkShown } = useNetwork()
const all = computed(() => props.view?.home.setups ?? [])
/** Those put away are shown when asked for, or while one of them is on the bench. */
const awayShown = ref(false)
const away = computed(() => all.value.filter((own) => own.archived))
const setups = computed(() =>
  all.value.filter((own) => awayShown.value || !own.archived || own.id === bench.setupId),
)
/** Of many only the one on the bench has its name beside its letter: a name cut after two letters tells nothing. */
const named = computed(() => setups.value.length <= 4)
const fresh = reactive({ name: '', copy: true, busy: false })
const last = computed(() => props.view?.undo[0])
const when = (at: string | null | undefined) =>
  at ? new Date(at).toLocaleTimeString(undefined, { timeStyle: 'short' }) : ''

watch(
  () => bench.newSetup,
  (asked) => {
    if (asked)
      Object.assign(fresh, { name: setups.value.length ? '' : 'as found', copy: setups.value.length > 0 })
  },
)

async function create() {
  if (fresh.busy) return
  fresh.busy = true
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups', {
      params: { path: { home: home.id }, header },
      body: { name: fresh.name, copy_of: fresh.copy ? (bench.setupId ?? null) : null },
    }),
  )
  fresh.busy = false
  if (!done) return
  bench.newSetup = false
  bench.setupId = all.value.at(-1)?.id
}
</script>

<template>
  <header>
    <router-link to="/" class="wordmark">Busy <b>Hen</b></router-link>
    <span class="job" :title="view?.home.name">{{ view?.home.name }}</span>
    <nav v-if="view" aria-label="Setups" class="setups">
      <button
        v-for="setup in setups"
        :key="setup.id"
        type="button"
        :aria-pressed="setup.id === bench.setupId"
        :class="{ short: !named && setup.id !== bench.setupId }"
        :title="`${setup.letter} ${setup.name}${setup.id === view.home.in_force ? ', in force' : ''}${setup.why ? `: ${setup.why}` : ''}`"
        @click="bench.setupId = setup.id"
      >
        <b :data-key="`⇧${setup.letter}`">{{ setup.letter }}</b>
        {{ named || setup.id === bench.setupId ? setup.name : '' }}
        {{ setup.id === view.home.in_force ? '✓' : '' }}
      </button>
      <button v-if="away.length" type="button" class="away" @click="awayShown = !awayShown">
        {{ awayShown ? 'hide those put away' : `${away.length} put away` }}
      </button>
      <button id="new-setup" type="button" title="A new setup" @click="bench.newSetup = true">
        + new setup
      </button>
    </nav>
    <div
      v-if="setups.length"
      class="switch"
      role="group"
      aria-label="What the rooms are sorted and marked by"
    >
      <button
        type="button"
        data-key="m"
        :aria-pressed="!bench.showMeasured"
        @click="bench.showMeasured = false"
      >
        Predicted
      </button>
      <button type="button" :aria-pressed="bench.showMeasured" @click="bench.showMeasured = true">
        Measured
      </button>
    </div>
    <span class="space" />
    <span v-if="view && !home.live.value" class="offline small" role="status" aria-label="Connection">
      not connected
    </span>
    <button
      v-if="network?.open"
      type="button"
      class="plain open"
      title="Other devices reach this computer; press to see where, or to close it"
      @click="networkShown = true"
    >
      Network open
    </button>
    <span class="steps">
      <button
        id="undo"
        type="button"
        class="plain undo"
        :disabled="!last"
        :title="last ? `Undo: ${last.what}` : 'Nothing of yours to undo'"
        @click="emit('undo')"
      >
        Undo<template v-if="last">: {{ last.what }}</template>
      </button>
      <v-menu v-if="last">
        <template #activator="{ props: opener }">
          <button type="button" class="plain" aria-label="▾ Last steps, to go back to" v-bind="opener">
            ▾
          </button>
        </template>
        <ol class="past">
          <li v-for="(step, index) in view?.undo" :key="step.number">
            <button type="button" @click="emit('undo', step.number)">
              {{ step.what }}
              <small>{{ when(step.at) }}{{ index > 0 ? `, with the ${index} after it` : '' }}</small>
            </button>
          </li>
          <li class="kept">Your own last 200 steps are kept for 30 days, whatever others do.</li>
        </ol>
      </v-menu>
    </span>
    <button
      type="button"
      class="plain"
      :disabled="!view?.redo"
      :title="view?.redo ? `Redo: ${view.redo.what}` : 'Nothing to redo'"
      @click="emit('redo')"
    >
      Redo
    </button>
    <button type="button" class="plain" @click="emit('find')">Find <kbd>Ctrl K</kbd></button>
    <button type="button" class="plain" @click="emit('help')">Keys <kbd>?</kbd></button>

    <v-dialog v-model="bench.newSetup" aria-label="New setup" max-width="420">
      <v-card title="New setup">
        <v-card-text>
          <form class="form" @submit.prevent="create">
            <v-text-field v-model="fresh.name" label="What is different in it" autofocus />
            <v-checkbox
              v-if="setups.length"
              v-model="fresh.copy"
              :label="`Begin with the devices of setup ${setups.find((own) => own.id === bench.setupId)?.letter}`"
            />
            <div class="buttons">
              <v-btn @click="bench.newSetup = false">Cancel</v-btn>
              <v-btn type="submit" variant="flat" color="primary" :disabled="!fresh.name.trim()"
                >Make it</v-btn
              >
            </div>
          </form>
        </v-card-text>
      </v-card>
    </v-dialog>
  </header>
</template>

<style scoped>
header {
  grid-area: top;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
  min-width: 0;
}

.wordmark {
  font-size: 1.25rem;
  text-decoration: none;
  white-space: nowrap;
}

.wordmark b {
  color: var(--comb);
}

.job {
  color: var(--quiet);
  font-size: 0.85rem;
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.setups,
.switch {
  display: flex;
  border: 1px solid var(--quiet);
  min-width: 0;
  flex-shrink: 0;
}

.setups {
  flex-shrink: 1;
}

.setups button,
.switch button {
  padding: 5px 10px;
  font-size: 0.85rem;
  white-space: nowrap;
  background: #fff;
  max-width: 150px;
  min-width: 30px;
  overflow: hidden;
  text-overflow: ellipsis;
}

.setups button[aria-pressed='true'],
.setups .short,
.away,
#new-setup {
  flex-shrink: 0;
}

.setups .short {
  overflow: visible;
}

.setups button + button,
.switch button + button {
  border-left: 1px solid var(--line);
}

button[aria-pressed='true'] {
  background: var(--ink);
  color: #fff;
}

.space {
  flex: 1;
}

.plain {
  font-size: 0.85rem;
  color: var(--quiet);
  white-space: nowrap;
}

.plain:disabled {
  opacity: 0.45;
}

.steps {
  display: flex;
  min-width: 0;
  gap: 2px;
}

.undo {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}

.plain.open {
  color: var(--ink);
  text-decoration: underline;
}

.offline {
  color: var(--comb);
  white-space: nowrap;
}

.past {
  list-style: none;
  margin: 0;
  padding: 6px 0;
  background: #fff;
  border: 1px solid var(--quiet);
  max-height: 60vh;
  overflow: auto;
}

.past button {
  display: block;
  width: 100%;
  text-align: left;
  padding: 5px 14px;
}

.past button:hover,
.past button:focus-visible {
  background: var(--select);
}

.past .kept {
  color: var(--quiet);
  font-size: 0.8rem;
  padding: 6px 14px 2px;
}

.past small {
  color: var(--quiet);
  padding-left: 8px;
}

.form {
  display: grid;
  gap: 10px;
  padding-top: 6px;
}

.buttons {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}

@media (max-width: 1180px) {
  header {
    gap: 8px;
  }

  .job,
  .plain kbd {
    display: none;
  }

  .undo {
    max-width: 110px;
  }
}

@media (max-width: 900px) {
  .setups {
    flex-wrap: wrap;
  }

  header {
    flex-wrap: wrap;
    padding: 8px 12px;
    gap: 8px;
  }

  kbd,
  .job {
    display: none;
  }
}
</style>

<script setup lang="ts">
import { computed, reactive } from 'vue'

import { api } from '../../api/client'
import type { HomeView } from '../../api/types'
import { useBench } from './useBench'
import { useHome } from './useHome'

const props = defineProps<{ view: HomeView | undefined }>()
const emit = defineEmits<{ undo: []; redo: []; find: []; help: [] }>()

const bench = useBench()
const home = useHome()
const setups = computed(() => props.view?.home.setups ?? [])
const fresh = reactive({ open: false, name: '', copy: true })

function begin() {
  fresh.open = true
  fresh.name = ''
  fresh.copy = setups.value.length > 0
}

async function create() {
  const done = await home.change(
    api.POST('/api/homes/{home}/setups', {
      params: { path: { home: home.id } },
      body: { name: fresh.name, copy_of: fresh.copy ? (bench.setupId ?? null) : null },
    }),
  )
  if (!done) return
  fresh.open = false
  bench.setupId = setups.value.at(-1)?.id
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
        :title="`${setup.letter} ${setup.name}`"
        @click="bench.setupId = setup.id"
      >
        <b>{{ setup.letter }}</b> {{ setup.name }}
      </button>
      <button id="new-setup" type="button" aria-label="New setup" @click="begin">+</button>
    </nav>
    <div
      v-if="setups.length"
      class="switch"
      role="group"
      aria-label="What the rooms are sorted and marked by"
    >
      <button type="button" :aria-pressed="!bench.showMeasured" @click="bench.showMeasured = false">
        Predicted
      </button>
      <button type="button" :aria-pressed="bench.showMeasured" @click="bench.showMeasured = true">
        Measured
      </button>
    </div>
    <span class="space" />
    <button
      type="button"
      class="plain"
      :disabled="!view?.can_undo"
      :title="view?.can_undo ? `Undo ${view.can_undo}` : 'Nothing to undo'"
      @click="emit('undo')"
    >
      Undo
    </button>
    <button
      type="button"
      class="plain"
      :disabled="!view?.can_redo"
      :title="view?.can_redo ? `Redo ${view.can_redo}` : 'Nothing to redo'"
      @click="emit('redo')"
    >
      Redo
    </button>
    <button type="button" class="plain" @click="emit('find')">Find <kbd>Ctrl K</kbd></button>
    <button type="button" class="plain" @click="emit('help')">Keys <kbd>?</kbd></button>

    <v-dialog v-model="fresh.open" max-width="420">
      <v-card title="New setup">
        <v-card-text>
          <form class="form" @submit.prevent="create">
            <v-text-field v-model="fresh.name" label="What is different in it" autofocus />
            <v-checkbox
              v-if="setups.length"
              v-model="fresh.copy"
              label="Begin with the devices of the setup on the bench"
            />
            <div class="buttons">
              <v-btn @click="fresh.open = false">Cancel</v-btn>
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
  overflow-x: auto;
}

.setups button,
.switch button {
  padding: 5px 10px;
  font-size: 0.85rem;
  white-space: nowrap;
  background: #fff;
  max-width: 150px;
  overflow: hidden;
  text-overflow: ellipsis;
  flex-shrink: 0;
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

kbd {
  border: 1px solid var(--line);
  background: #fff;
  padding: 0 5px;
  font: inherit;
  font-size: 0.75rem;
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

@media (max-width: 900px) {
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

<script setup lang="ts">
import { computed } from 'vue'

import { useCatalogue } from '../../shared/useCatalogue'
import { useBench, useHome } from '../bench'
import SetupPanel from './SetupPanel.vue'

const home = useHome()
const bench = useBench()
const catalogue = useCatalogue()

const view = computed(() => home.view.value)
const setup = computed(() => view.value?.home.setups.find((own) => own.id === bench.setupId))
const levels = computed(() => view.value?.home.house.levels ?? [])
const hasRooms = computed(() => (view.value?.drawing.rooms.length ?? 0) > 0)
const clients = computed(
  () => catalogue.value?.clients.map((own) => ({ title: own.name, value: own.key })) ?? [],
)
</script>

<template>
  <div class="setups">
    <p v-if="!hasRooms" class="page quiet">
      The house has no rooms yet: type them under
      <router-link :to="{ name: 'house' }">House</router-link>, then place devices here.
    </p>
    <p v-else-if="!setup" class="page quiet">
      No setup yet. Make the first with “+” at the top: usually “as found”, with the router that is there now.
    </p>
    <template v-else-if="view">
      <div class="controls">
        <div class="levels" role="group" aria-label="Levels">
          <button
            v-for="level in levels"
            :key="level.id"
            type="button"
            :aria-pressed="level.id === bench.levelId"
            @click="bench.levelId = level.id"
          >
            {{ level.name }}
          </button>
        </div>
        <v-select v-model="bench.client" :items="clients" label="Seen by" class="client" hide-details />
        <v-select
          v-model="bench.situation"
          :items="[
            { title: 'nothing else busy', value: 'alone' },
            { title: 'busy evening', value: 'busy_evening' },
          ]"
          label="Household"
          class="short"
          hide-details
        />
        <v-select
          v-model="bench.doors"
          :items="[
            { title: 'as left', value: 'as_left' },
            { title: 'all open', value: 'open' },
            { title: 'all shut', value: 'shut' },
          ]"
          label="Doors"
          class="short"
          hide-details
        />
        <v-select
          v-model="bench.kind"
          :items="[
            { title: 'internet', value: 'internet' },
            { title: 'local', value: 'local' },
          ]"
          label="Test to"
          class="short"
          hide-details
        />
      </div>
      <SetupPanel :id="setup.id" :key="setup.id" :view="view" />
    </template>
  </div>
</template>

<style scoped>
.controls {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 8px 12px;
  background: var(--night);
}

.levels {
  display: flex;
  border: 1px solid #5a6079;
  flex-shrink: 0;
}

.levels button {
  padding: 5px 12px;
  color: var(--paper);
  font-size: 0.88rem;
}

.levels button[aria-pressed='true'] {
  background: var(--cream);
  color: var(--night);
}

.controls .v-input {
  color: var(--paper);
  min-width: 0;
}

.controls :deep(.v-field__outline) {
  --v-field-border-opacity: 0.5;
}

.controls :deep(.v-field-label.v-label) {
  color: #c9cbd6;
}

.controls :deep(.v-field) {
  font-size: 0.85rem;
}

.controls :deep(.v-field__input) {
  padding-inline: 10px 0;
}

.client {
  flex: 1.5;
}

.short {
  flex: 1;
}

@media (max-width: 900px) {
  .controls {
    flex-wrap: wrap;
  }
}
</style>

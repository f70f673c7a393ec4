<script setup lang="ts">
import { computed } from 'vue'

import { useBench, useHome } from '../bench'
import QuestionBar from './QuestionBar.vue'
import SetupPanel from './SetupPanel.vue'

const home = useHome()
const bench = useBench()

const view = computed(() => home.view.value)
const setup = computed(() => view.value?.home.setups.find((own) => own.id === bench.setupId))
const hasRooms = computed(() => (view.value?.drawing.rooms.length ?? 0) > 0)
</script>

<template>
  <div class="setups">
    <h1 class="visually-hidden">Setups</h1>
    <p v-if="!hasRooms" class="page quiet">
      The house has no rooms yet: type them under
      <router-link :to="{ name: 'house' }">House</router-link>, then place devices here.
    </p>
    <div v-else-if="!setup" class="page">
      <p class="quiet">No setup yet. The first is usually “as found”, with the router that is there now.</p>
      <v-btn @click="bench.newSetup = true">Make the first setup</v-btn>
    </div>
    <template v-else-if="view">
      <QuestionBar :view="view" />
      <SetupPanel :id="setup.id" :key="setup.id" :view="view" />
    </template>
  </div>
</template>

<style scoped>
.setups {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
}

@media (max-width: 900px) {
  .setups {
    height: auto;
  }
}
</style>

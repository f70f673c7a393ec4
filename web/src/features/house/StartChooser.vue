<script setup lang="ts">
import { computed } from 'vue'

import { api } from '../../api/client'
import { useCatalogue } from '../../shared/useCatalogue'
import { useBench } from '../bench'
import { useHouse } from './useHouse'

const emit = defineEmits<{ empty: [] }>()
const house = useHouse()
const bench = useBench()
const catalogue = useCatalogue()
const starts = computed(() => catalogue.value?.starts ?? [])

async function begin(text: string) {
  const home = house.home
  const taken = await home.change((header) =>
    api.PUT('/api/homes/{home}/house-text', { params: { path: { home: home.id }, header }, body: { text } }),
  )
  if (taken) bench.levelId = home.view.value?.home.house.levels[0]?.id
}
</script>

<template>
  <section class="starts" aria-label="Where to begin">
    <h2>Where to begin</h2>
    <p>Type the rooms as you pace them, one line each:</p>
    <v-btn id="first-level" color="primary" @click="emit('empty')">Begin with an empty level</v-btn>
    <p>Or begin from something like it, and change the lines:</p>
    <div class="list">
      <v-btn
        v-for="start in starts"
        :key="start.name"
        @click="begin(house.units.value === 'ft' ? start.feet : start.metres)"
      >
        {{ start.name }}
      </v-btn>
    </div>
  </section>
</template>

<style scoped>
.starts {
  padding: 24px;
  max-width: 640px;
}

.list {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
</style>

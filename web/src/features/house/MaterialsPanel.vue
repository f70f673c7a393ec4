<script setup lang="ts">
import { computed } from 'vue'

import { useCatalogue } from '../../shared/useCatalogue'
import { useHouse } from './useHouse'
import { useMaterials } from './useMaterials'

const house = useHouse()
const catalogue = useCatalogue()
const { walls, floors, fillings } = useMaterials()
const ROOF = { title: 'the roof', value: null }
const GROUND = { title: 'the ground', value: null }
const edit = house.edit
const looks = computed(
  () => catalogue.value?.looks.map((look) => ({ title: look.name, value: look.name })) ?? [],
)

/** Says of the whole house what houses of this look and age are made of. */
function take(name: string | null) {
  const look = catalogue.value?.looks.find((own) => own.name === name)
  if (!look || !edit.value) return
  edit.value.outer_wall = look.outer_wall
  edit.value.inner_wall = look.inner_wall
  edit.value.windows = look.windows
  edit.value.levels.slice(1).forEach((level) => (level.floor = look.floors))
}
</script>

<template>
  <div v-if="edit" class="materials">
    <v-select
      id="look-and-age"
      class="look"
      :model-value="null"
      :items="looks"
      label="By the look and age of the house"
      placeholder="sets walls, windows and floors; look whether it is so"
      persistent-placeholder
      @update:model-value="take"
    />
    <v-select v-model="edit.outer_wall" :items="walls" label="Outer walls" />
    <v-select v-model="edit.inner_wall" :items="walls" label="Inner walls" />
    <v-select v-model="edit.windows" :items="fillings" label="Windows" />
    <template v-if="edit.around">
      <v-select v-model="edit.around.above" :items="[ROOF, ...floors]" label="Above it" />
      <v-select v-model="edit.around.below" :items="[GROUND, ...floors]" label="Under it" />
      <v-checkbox v-if="edit.levels.length > 1" v-model="edit.around.stairs" label="stairs join the levels" />
    </template>
    <p class="small quiet">
      What holds where no line says otherwise. Where both rooms beside a wall name a material, the heavier
      counts.
    </p>
  </div>
</template>

<style scoped>
.materials {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
}

.look,
p {
  grid-column: 1 / -1;
  margin: 0;
}

@media (max-width: 700px) {
  .materials {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { v4 as newId } from 'uuid'
import type { HouseEdit, LengthUnit, ObstacleKind } from '../../api/types'
import LengthField from '../../shared/LengthField.vue'

const props = defineProps<{ levelId: string; units: LengthUnit }>()
const edit = defineModel<HouseEdit>({ required: true })

const kinds: { title: string; value: ObstacleKind }[] = [
  { title: 'brick garden wall', value: 'garden_wall' },
  { title: 'hedge or trees in leaf', value: 'hedge' },
  { title: 'parked car', value: 'car' },
  { title: 'another house', value: 'other_house' },
  { title: 'tall metal indoors', value: 'metal_cabinet' },
  { title: 'column, chimney or shaft', value: 'concrete' },
]
const ends = [
  ['from_x_m', 'From, east'],
  ['from_y_m', 'From, south'],
  ['to_x_m', 'To, east'],
  ['to_y_m', 'To, south'],
] as const

function add() {
  edit.value.obstacles.push({
    id: newId(),
    kind: 'garden_wall',
    level_id: props.levelId,
    from_x_m: 0,
    from_y_m: 0,
    to_x_m: 3,
    to_y_m: 0,
    height_m: 1.8,
    depth_m: 0.5,
  })
}
</script>

<template>
  <details class="folded">
    <summary>In the way: garden walls, hedges, cars, metal ({{ edit.obstacles.length }})</summary>
    <p class="small quiet">
      What stands on the ground or floor of its level. Places count from the north-west corner of the first
      room.
    </p>
    <fieldset
      v-for="(one, index) in edit.obstacles"
      :key="one.id"
      class="entry"
      :aria-label="`Obstacle ${index + 1}`"
    >
      <v-select v-model="one.kind" :items="kinds" label="What" />
      <v-select
        v-model="one.level_id"
        :items="edit.levels.map((own) => ({ title: own.name, value: own.id }))"
        label="On"
      />
      <LengthField
        v-for="[field, label] in ends"
        :key="field"
        :metres="one[field]"
        :label="label"
        :units="units"
        @change="one[field] = $event"
      />
      <LengthField :metres="one.height_m" label="Height" :units="units" @change="one.height_m = $event" />
      <LengthField
        v-if="one.kind === 'hedge'"
        :metres="one.depth_m"
        label="How deep"
        :units="units"
        @change="one.depth_m = $event"
      />
      <span v-else />
      <v-btn
        size="small"
        variant="text"
        :aria-label="`Remove obstacle ${index + 1}`"
        @click="edit.obstacles.splice(index, 1)"
      >
        Remove
      </v-btn>
    </fieldset>
    <v-btn size="small" @click="add">+ obstacle</v-btn>
  </details>
</template>

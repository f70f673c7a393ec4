<script setup lang="ts">
import { computed } from 'vue'

import type { DrawnRoom, HouseEdit, LengthUnit, Opening, WallSide } from '../../api/types'
import LengthField from '../../shared/LengthField.vue'
import NumberField from '../../shared/NumberField.vue'
import type { Choice } from './useMaterials'

const props = defineProps<{
  room: DrawnRoom
  units: LengthUnit
  walls: Choice[]
  fillings: Choice[]
}>()
const edit = defineModel<HouseEdit>({ required: true })

const sides: WallSide[] = ['north', 'east', 'south', 'west']
const openings = computed(() => edit.value.openings.filter((own) => own.room_id === props.room.room_id))
const stairs = computed(() => edit.value.stairwells.filter((own) => own.room_id === props.room.room_id))
const wallOf = (side: WallSide) =>
  edit.value.walls.find((own) => own.room_id === props.room.room_id && own.side === side)

function setWall(side: WallSide, material: string | null) {
  const before = wallOf(side)
  const others = edit.value.walls.filter((own) => own !== before)
  const chosen = { room_id: props.room.room_id, side, material: material ?? '', thickness_m: null }
  edit.value.walls = material ? [...others, chosen] : others
}

function setThickness(side: WallSide, metres: number | null) {
  const wall = wallOf(side)
  if (wall) wall.thickness_m = metres
}

function addOpening(kind: Opening['kind']) {
  edit.value.openings.push({
    room_id: props.room.room_id,
    side: 'north',
    kind,
    material: kind === 'door' ? 'door' : edit.value.windows,
    open: kind === 'door',
    along_part: 0.5,
    width_m: kind === 'door' ? 0.8 : 1.2,
  })
}

function addStairs() {
  edit.value.stairwells.push({
    room_id: props.room.room_id,
    east_part: 0.5,
    south_part: 0.5,
    width_m: 0.9,
    depth_m: 2.2,
  })
}

function remove<T>(list: T[], one: T) {
  list.splice(list.indexOf(one), 1)
}

const percent = (part: number) => Math.round(part * 100)
const end = (side: WallSide) => (side === 'north' || side === 'south' ? 'west' : 'north')
</script>

<template>
  <div role="group" class="room-sides" :aria-label="`Sides of ${room.name}`">
    <h2>Sides of {{ room.name }}</h2>
    <div class="sides">
      <template v-for="side in sides" :key="side">
        <v-select
          :model-value="wallOf(side)?.material ?? ''"
          :items="[{ title: 'as the house', value: '' }, ...walls]"
          :label="`${side} side`"
          @update:model-value="setWall(side, $event)"
        />
        <LengthField
          v-if="wallOf(side)"
          :metres="wallOf(side)?.thickness_m"
          label="Thick"
          :units="units"
          optional
          @change="setThickness(side, $event)"
          @clear="setThickness(side, null)"
        />
        <span v-else />
      </template>
    </div>

    <h3>Doors and windows of {{ room.name }}</h3>
    <p v-if="openings.length === 0" class="small quiet">
      None drawn: reckoned with a timber door to the hall, half the time open, and a usual window in each
      outer side. They are dotted on the drawing.
    </p>
    <fieldset
      v-for="(opening, index) in openings"
      :key="index"
      class="entry"
      :aria-label="`${opening.kind} ${index + 1}`"
    >
      <v-select v-model="opening.kind" :items="['door', 'window']" label="What" />
      <v-select v-model="opening.side" :items="sides" label="Side" />
      <v-select v-model="opening.material" :items="fillings" label="Of" />
      <LengthField
        :metres="opening.width_m"
        label="Width"
        :units="units"
        @change="opening.width_m = $event"
      />
      <NumberField
        :value="percent(opening.along_part)"
        :label="`% from ${end(opening.side)}`"
        @change="opening.along_part = $event / 100"
      />
      <div class="last">
        <v-checkbox v-model="opening.open" label="open" />
        <v-btn
          size="small"
          variant="text"
          :aria-label="`Remove ${opening.kind} ${index + 1}`"
          @click="remove(edit.openings, opening)"
        >
          Remove
        </v-btn>
      </div>
    </fieldset>
    <fieldset
      v-for="(well, index) in stairs"
      :key="`stairs ${index}`"
      class="entry"
      :aria-label="`Stairs ${index + 1}`"
    >
      <NumberField
        :value="percent(well.east_part)"
        label="% from west"
        @change="well.east_part = $event / 100"
      />
      <NumberField
        :value="percent(well.south_part)"
        label="% from north"
        @change="well.south_part = $event / 100"
      />
      <div class="last">
        <b class="small">Stairs up</b>
        <v-btn
          size="small"
          variant="text"
          :aria-label="`Remove stairs ${index + 1}`"
          @click="remove(edit.stairwells, well)"
        >
          Remove
        </v-btn>
      </div>
      <LengthField
        :metres="well.width_m"
        label="Hole, west-east"
        :units="units"
        @change="well.width_m = $event"
      />
      <LengthField
        :metres="well.depth_m"
        label="Hole, north-south"
        :units="units"
        @change="well.depth_m = $event"
      />
    </fieldset>
    <div class="add">
      <v-btn size="small" @click="addOpening('door')">+ door</v-btn>
      <v-btn size="small" @click="addOpening('window')">+ window</v-btn>
      <v-btn size="small" @click="addStairs">+ stairs up</v-btn>
    </div>
  </div>
</template>

<style scoped>
.room-sides {
  margin-top: 16px;
  display: grid;
  gap: 10px;
}

h3 {
  font-size: 0.95rem;
  margin: 6px 0 0;
}

p {
  margin: 0;
}

.sides {
  display: grid;
  grid-template-columns: 1fr 100px;
  gap: 10px;
}

.entry {
  grid-template-columns: 1fr 1fr 1.6fr;
}

.last {
  display: flex;
  justify-content: space-between;
  align-items: center;
}

.add {
  display: flex;
  gap: 8px;
}
</style>

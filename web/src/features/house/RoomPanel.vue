<script setup lang="ts">
import { computed, ref } from 'vue'

import type { WallSide } from '../../api/types'
import { area, sides as sidesOf } from '../../shared/words'
import { PictureStrip, useBench } from '../bench'
import { useHouse } from './useHouse'
import { useMaterials } from './useMaterials'

const house = useHouse()
const bench = useBench()
const { walls } = useMaterials()
const room = house.room
const saved = computed(() => house.home.view.value?.home.house.rooms.some((own) => own.id === bench.roomId))
const SIDES: WallSide[] = ['north', 'east', 'south', 'west']
const side = ref<WallSide>('north')
const name = ref('')

/** What the walls of a side are made of, as drawn: the stretch in its middle. */
function materialOf(own: WallSide): string {
  const part = room.value?.parts[0]
  if (!part) return ''
  const [x, y] = [part.x_m + part.width_m / 2, part.y_m + part.depth_m / 2]
  const at = {
    north: part.y_m,
    south: part.y_m + part.depth_m,
    west: part.x_m,
    east: part.x_m + part.width_m,
  }[own]
  const level = own === 'north' || own === 'south'
  const wall = house.drawing.value?.walls.find(
    (one) =>
      one.level_id === room.value?.level_id &&
      (level
        ? Math.abs(one.y1_m - at) < 0.01 && Math.abs(one.y2_m - at) < 0.01 && one.x1_m <= x && x <= one.x2_m
        : Math.abs(one.x1_m - at) < 0.01 && Math.abs(one.x2_m - at) < 0.01 && one.y1_m <= y && y <= one.y2_m),
  )
  return wall?.material ?? 'open'
}

function setWall(own: WallSide, material: string) {
  if (!room.value) return
  void house.write([
    { what: 'set_wall', room: room.value.name, side: own, material: material || null, thickness_m: null },
  ])
}

function add(words: string) {
  if (room.value) void house.write([{ what: 'add_thing', room: room.value.name, words }])
}

async function rename() {
  const to = name.value.trim()
  if (!room.value || to === '' || to === room.value.name) return
  if (await house.write([{ what: 'rename', room: room.value.name, to }])) name.value = ''
}
</script>

<template>
  <div v-if="room" role="group" class="room" :aria-label="`Sides of ${room.name}`">
    <h2>{{ room.name }}</h2>
    <span class="small quiet">
      {{ sidesOf(room, house.units.value) }}, {{ area(room.area_m2, house.units.value) }}
    </span>
    <form class="rename" @submit.prevent="rename">
      <input v-model="name" :placeholder="room.name" :aria-label="`Another name for ${room.name}`" />
      <v-btn size="small" type="submit" :disabled="name.trim() === ''">Rename everywhere</v-btn>
    </form>
    <div class="sides">
      <v-select
        v-for="own in SIDES"
        :key="own"
        :model-value="materialOf(own)"
        :items="[{ title: 'as the house', value: '' }, ...walls]"
        :label="`${own} side`"
        @update:model-value="setWall(own, $event)"
      />
    </div>
    <div class="add" role="group" aria-label="Put into it">
      <label class="small">
        on side
        <select v-model="side" aria-label="On side">
          <option v-for="own in SIDES" :key="own">{{ own }}</option>
        </select>
      </label>
      <v-btn size="small" @click="add(`door ${side}`)">+ door</v-btn>
      <v-btn size="small" @click="add(`window ${side}`)">+ window</v-btn>
      <v-btn size="small" @click="add(`gap ${side}`)">+ gap</v-btn>
      <v-btn size="small" @click="add(`chimney ${side}`)">+ chimney</v-btn>
      <v-btn size="small" @click="add('stairs')">+ stairs up</v-btn>
      <v-btn size="small" @click="add(`power socket ${side}`)">+ power</v-btn>
      <v-btn size="small" @click="add(`network socket ${side}`)">+ network</v-btn>
      <v-btn size="small" @click="add(`coax socket ${side}`)">+ coax</v-btn>
      <v-btn size="small" @click="add(`line entry ${side}`)">+ line entry</v-btn>
    </div>
    <PictureStrip
      v-if="saved"
      label="Pictures of its walls and sockets"
      :names="new Map([[room.room_id, room.name]])"
      :adding="{ room: room.room_id }"
    />
    <p class="small quiet wide">
      Doors, windows, stairs and sockets can be dragged on the drawing, or moved with the arrow keys; Delete
      takes them out. Dotted ones nobody has said: both ways that they may be are reckoned with.
    </p>
  </div>
  <p v-else class="small quiet">
    Choose a room: on the drawing, in its line, or in the list. Its sides can be dragged; two presses on it,
    or Enter, let its size be typed.
  </p>
</template>

<style scoped>
.room {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
}

h2 {
  margin: 0;
}

.rename {
  display: flex;
  gap: 8px;
  margin-left: auto;
}

.rename input,
select {
  border: 0;
  border-bottom: 1px solid var(--quiet);
  background: #fff;
  padding: 4px 6px;
  font: inherit;
}

.sides {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px;
  width: 100%;
}

.add {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}

.wide {
  width: 100%;
  margin: 0;
}

@media (max-width: 1100px) {
  .sides {
    grid-template-columns: 1fr 1fr;
  }
}
</style>

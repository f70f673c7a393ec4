<script setup lang="ts">
import { computed } from 'vue'

import type { PhoneSpot, PhoneView } from '../api/types'

const props = defineProps<{ view: PhoneView; spot: PhoneSpot }>()

const drawing = computed(() => props.view.drawing)
const level = computed(() => drawing.value.levels.find((own) => own.level_id === props.spot.level_id))
const rooms = computed(() => drawing.value.rooms.filter((own) => own.level_id === props.spot.level_id))
const spots = computed(() => props.view.spots.filter((own) => own.level_id === props.spot.level_id))
// A level that is deeper than wide lies on its side, so that it fills the width of the screen; the arrow says so.
const turned = computed(() => (level.value ? level.value.depth_m > level.value.width_m * 1.2 : false))
const box = computed(() => {
  const own = level.value
  if (!own) return '0 0 1 1'
  const m = 0.4
  return turned.value
    ? `${own.y_m - m} ${-(own.x_m + own.width_m) - m} ${own.depth_m + 2 * m} ${own.width_m + 2 * m}`
    : `${own.x_m - m} ${own.y_m - m} ${own.width_m + 2 * m} ${own.depth_m + 2 * m}`
})
const long = computed(() => Math.max(level.value?.width_m ?? 1, level.value?.depth_m ?? 1))
</script>

<template>
  <figure v-if="level">
    <svg :viewBox="box" role="img" :aria-label="`${spot.name} on ${level.name}`">
      <g :transform="turned ? 'rotate(-90)' : ''">
        <rect
          v-for="room in rooms"
          :key="room.room_id"
          :x="room.x_m"
          :y="room.y_m"
          :width="room.width_m"
          :height="room.depth_m"
          :class="{ outdoors: room.outdoors }"
        />
        <circle
          v-for="own in spots"
          :key="own.spot_id"
          :cx="own.x_m"
          :cy="own.y_m"
          :r="long * (own.spot_id === spot.spot_id ? 0.035 : 0.018)"
          :class="{ here: own.spot_id === spot.spot_id, done: own.done }"
        />
      </g>
    </svg>
    <figcaption class="small quiet">{{ level.name }}; north is {{ turned ? 'left' : 'up' }}.</figcaption>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  max-height: 220px;
  background: #fff;
  border: 1px solid var(--line);
}

rect {
  fill: #f4ede0;
  stroke: var(--ink);
  stroke-width: 0.1;
}

.outdoors {
  fill: none;
  stroke-dasharray: 0.3 0.2;
  stroke-width: 0.06;
}

circle {
  fill: #fff;
  stroke: var(--ink);
  stroke-width: 0.06;
}

.done {
  fill: var(--leaf);
}

.here {
  fill: var(--comb);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Drawing } from '../../api/types'

const props = defineProps<{ drawing: Drawing }>()

/** The level with most rooms, lying on its long side. */
const level = computed(() => {
  const count = (id: string) => props.drawing.rooms.filter((room) => room.level_id === id).length
  return [...props.drawing.levels].sort((a, b) => count(b.level_id) - count(a.level_id))[0]
})
const rooms = computed(() => props.drawing.rooms.filter((room) => room.level_id === level.value?.level_id))
const turned = computed(() => !!level.value && level.value.depth_m > level.value.width_m)
const box = computed(() => {
  const l = level.value
  if (!l || l.width_m === 0) return '0 0 1 1'
  return turned.value
    ? `${l.y_m} ${-(l.x_m + l.width_m)} ${l.depth_m} ${l.width_m}`
    : `${l.x_m} ${l.y_m} ${l.width_m} ${l.depth_m}`
})
</script>

<template>
  <svg :viewBox="box" class="thumb" aria-hidden="true">
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
    </g>
  </svg>
</template>

<style scoped>
.thumb {
  width: 100%;
  height: 92px;
  background: var(--night);
  padding: 10px;
}

rect {
  fill: var(--dusk);
  stroke: var(--straw);
  stroke-width: 1.2px;
  vector-effect: non-scaling-stroke;
}

rect.outdoors {
  fill: none;
  stroke-dasharray: 3 3;
}
</style>

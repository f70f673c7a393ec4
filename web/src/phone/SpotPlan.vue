<script setup lang="ts">
import { computed, ref } from 'vue'
import { roomPath } from '../shared/roomPath'

import type { PhoneSpot, PhoneView } from '../api/types'
import { useSheet } from '../shared/useSheet'

const props = defineProps<{ view: PhoneView; spot: PhoneSpot }>()

const svg = ref<SVGSVGElement | null>(null)
const sheet = useSheet(
  svg,
  () => props.view.drawing,
  () => props.spot.level_id ?? undefined,
)
const level = computed(() => props.view.drawing.levels.find((own) => own.level_id === props.spot.level_id))
const rooms = computed(() => props.view.drawing.rooms.filter((own) => own.level_id === props.spot.level_id))
const spots = computed(() => props.view.spots.filter((own) => own.level_id === props.spot.level_id))
</script>

<template>
  <figure v-if="level">
    <svg ref="svg" :viewBox="sheet.viewBox.value" role="img" :aria-label="`${spot.name} on ${level.name}`">
      <g :transform="sheet.transform.value">
        <path
          v-for="room in rooms"
          :key="room.room_id"
          :d="roomPath(room)"
          :class="{ outdoors: room.outdoors }"
        />
        <circle
          v-for="own in spots"
          :key="own.spot_id"
          :cx="own.x_m"
          :cy="own.y_m"
          :r="sheet.px(own.spot_id === spot.spot_id ? 12 : 6)"
          :class="{ here: own.spot_id === spot.spot_id, done: own.done }"
        />
      </g>
    </svg>
    <figcaption class="small quiet">
      {{ level.name }}; north is {{ sheet.turned.value ? 'left' : 'up' }}.
    </figcaption>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  height: 120px;
  background: #fff;
  border: 1px solid var(--line);
}

path {
  fill: #f4ede0;
  stroke: var(--ink);
  stroke-width: 1.5px;
  vector-effect: non-scaling-stroke;
}

.outdoors {
  fill: none;
  stroke-dasharray: 4 3;
}

circle {
  fill: #fff;
  stroke: var(--ink);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
}

.done {
  fill: var(--leaf);
}

.here {
  fill: var(--comb);
}
</style>

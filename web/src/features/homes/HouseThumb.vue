<script setup lang="ts">
import { computed, useId } from 'vue'

import type { Thumb } from '../../api/types'
import { ringPath } from '../../shared/ringPath'

const props = defineProps<{ thumb: Thumb | undefined }>()

const clip = useId()
/** The level lies on its long side. */
const turned = computed(() => !!props.thumb && props.thumb.depth_m > props.thumb.width_m)
const box = computed(() => {
  const l = props.thumb
  if (!l || l.width_m === 0) return '0 0 1 1'
  return turned.value
    ? `${l.y_m} ${-(l.x_m + l.width_m)} ${l.depth_m} ${l.width_m}`
    : `${l.x_m} ${l.y_m} ${l.width_m} ${l.depth_m}`
})
</script>

<template>
  <svg :viewBox="box" class="thumb" aria-hidden="true">
    <g :transform="turned ? 'rotate(-90)' : ''">
      <clipPath :id="clip">
        <rect
          v-for="(room, index) in thumb?.rooms"
          :key="index"
          :x="room.x_m"
          :y="room.y_m"
          :width="room.width_m"
          :height="room.depth_m"
        />
      </clipPath>
      <g :clip-path="`url(#${clip})`">
        <path
          v-for="(own, index) in thumb?.shaded"
          :key="index"
          :d="ringPath(own.polygons)"
          :fill="thumb?.shades[own.shade]?.colour"
          fill-rule="evenodd"
        />
      </g>
      <rect
        v-for="(room, index) in thumb?.rooms"
        :key="index"
        :x="room.x_m"
        :y="room.y_m"
        :width="room.width_m"
        :height="room.depth_m"
        :class="{ outdoors: room.outdoors, lit: thumb?.shaded.length }"
      />
    </g>
  </svg>
</template>

<style scoped>
.thumb {
  width: 100%;
  height: 128px;
  background: var(--night);
  padding: 10px;
}

rect {
  fill: var(--dusk);
  stroke: var(--straw);
  stroke-width: 1.2px;
  vector-effect: non-scaling-stroke;
}

rect.lit {
  fill: none;
  stroke: var(--night);
}

rect.outdoors {
  fill: none;
  stroke: var(--straw);
  stroke-dasharray: 3 3;
}
</style>

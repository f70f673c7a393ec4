<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Drawing, DrawnRoom, LengthUnit, Obstacle } from '../../api/types'
import NorthMark from '../../shared/NorthMark.vue'
import { useSheet } from '../../shared/useSheet'
import { length } from '../../shared/words'
import { useBench } from '../bench'

const props = defineProps<{
  drawing: Drawing
  obstacles: Obstacle[]
  levelId: string
  units: LengthUnit
}>()
const bench = useBench()
const svg = ref<SVGSVGElement | null>(null)
const sheet = useSheet(
  svg,
  () => props.drawing,
  () => props.levelId,
)

const rooms = computed(() => props.drawing.rooms.filter((room) => room.level_id === props.levelId))
const walls = computed(() => props.drawing.walls.filter((wall) => wall.level_id === props.levelId))
const openings = computed(() => props.drawing.openings.filter((one) => one.level_id === props.levelId))
const stairs = computed(() => props.drawing.stairs.filter((one) => one.level_id === props.levelId))
const obstacles = computed(() => props.obstacles.filter((one) => one.level_id === props.levelId))
const ends = (one: Drawing['openings'][number]) => ({
  x1: one.x1_m,
  y1: one.y1_m,
  x2: one.x2_m,
  y2: one.y2_m,
})
const size = (room: DrawnRoom) =>
  `${length(room.width_m, props.units).replace(/ .*/, '')} x ${length(room.depth_m, props.units)}`
/** Whether there is room for a second line. */
const roomy = (room: DrawnRoom) => Math.min(room.width_m, room.depth_m) > sheet.px(46)
const middle = (room: DrawnRoom) => sheet.upright(room.x_m + room.width_m / 2, room.y_m + room.depth_m / 2)
</script>

<template>
  <figure>
    <svg ref="svg" :viewBox="sheet.viewBox.value" role="group" aria-label="The level as drawn">
      <g :transform="sheet.transform.value">
        <g
          v-for="room in rooms"
          :key="room.room_id"
          role="button"
          tabindex="0"
          :aria-label="`${room.name}, ${size(room)}`"
          :aria-pressed="room.room_id === bench.roomId"
          @click="bench.roomId = room.room_id"
          @keydown.enter="bench.roomId = room.room_id"
          @keydown.space.prevent="bench.roomId = room.room_id"
        >
          <rect
            :x="room.x_m"
            :y="room.y_m"
            :width="room.width_m"
            :height="room.depth_m"
            :class="{ outdoors: room.outdoors, chosen: room.room_id === bench.roomId }"
          />
        </g>
        <line
          v-for="(wall, index) in walls"
          :key="index"
          :x1="wall.x1_m"
          :y1="wall.y1_m"
          :x2="wall.x2_m"
          :y2="wall.y2_m"
          :class="{ envelope: wall.envelope }"
        />
        <g v-for="(one, index) in openings" :key="`opening ${index}`" :class="{ assumed: one.assumed }">
          <line v-bind="ends(one)" class="cut" />
          <line v-bind="ends(one)" :class="[one.kind, { open: one.open }]" />
        </g>
        <rect
          v-for="(one, index) in stairs"
          :key="`stairs ${index}`"
          :x="one.x_m"
          :y="one.y_m"
          :width="one.width_m"
          :height="one.depth_m"
          class="stairs"
          :class="{ assumed: one.assumed }"
        />
        <line
          v-for="one in obstacles"
          :key="one.id"
          :x1="one.from_x_m"
          :y1="one.from_y_m"
          :x2="one.to_x_m"
          :y2="one.to_y_m"
          class="obstacle"
        />
        <g v-for="room in rooms" :key="`label ${room.room_id}`" :transform="middle(room)" aria-hidden="true">
          <text
            :font-size="sheet.fit(room, room.name, 13)"
            :y="roomy(room) ? 0 : sheet.px(4)"
            text-anchor="middle"
          >
            {{ room.name }}
          </text>
          <text
            v-if="roomy(room)"
            :font-size="sheet.fit(room, size(room), 11)"
            :y="sheet.px(13)"
            text-anchor="middle"
            class="size"
          >
            {{ size(room) }}
          </text>
        </g>
      </g>
    </svg>
    <figcaption><NorthMark :turned="sheet.turned.value" /></figcaption>
  </figure>
</template>

<style scoped>
figure {
  background: #fff;
  border: 1px solid var(--line);
  position: relative;
}

svg {
  width: 100%;
  height: 290px;
  display: block;
}

rect {
  fill: #f3eee1;
}

rect.outdoors {
  fill: none;
  stroke: var(--leaf);
  stroke-width: 1.5px;
  stroke-dasharray: 4 4;
  vector-effect: non-scaling-stroke;
}

rect.chosen {
  fill: var(--select);
}

[role='button'] {
  cursor: pointer;
  outline: none;
}

[role='button']:focus-visible rect {
  stroke: #1f5fa8;
  stroke-width: 3px;
  vector-effect: non-scaling-stroke;
}

line {
  stroke: var(--ink);
  stroke-width: 1.5px;
  vector-effect: non-scaling-stroke;
}

line.envelope {
  stroke-width: 4px;
}

.cut {
  stroke: #fff;
  stroke-width: 6px;
}

.door,
.window {
  stroke: var(--quiet);
  stroke-width: 2px;
}

.door.open {
  stroke: none;
}

.window {
  stroke: #1f5fa8;
  stroke-width: 3px;
}

.assumed line {
  stroke-dasharray: 2 3;
}

.assumed .cut {
  stroke-width: 4px;
}

.stairs {
  fill: none;
  stroke: var(--quiet);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
  pointer-events: none;
}

.stairs.assumed {
  stroke-dasharray: 2 3;
}

.obstacle {
  stroke: var(--leaf);
  stroke-width: 5px;
}

text {
  fill: var(--ink);
  pointer-events: none;
}

.size {
  fill: var(--quiet);
}

figcaption {
  position: absolute;
  right: 8px;
  bottom: 4px;
}
</style>

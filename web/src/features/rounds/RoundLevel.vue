<script setup lang="ts">
import { computed, ref } from 'vue'
import { roomPath } from '../../shared/roomPath'

import type { Drawing } from '../../api/types'
import { useSheet } from '../../shared/useSheet'
import { length } from '../../shared/words'
import type { LengthUnit } from '../../api/types'

/** A spot as it is drawn. */
export interface DrawnSpot {
  id: string
  name: string
  level: string
  x: number
  y: number
  /** Its place in the walking order; none when it is not walked. */
  number?: number
  state?: 'met' | 'just_met' | 'not_met' | 'tested' | 'open'
}

const props = defineProps<{
  drawing: Drawing
  level: string
  spots: DrawnSpot[]
  units: LengthUnit
  /** Whether spots can be moved. */
  editable?: boolean
  /** Whether a press adds a spot. */
  adding?: boolean
}>()
const emit = defineEmits<{
  choose: [id: string]
  move: [id: string, x: number, y: number]
  add: [x: number, y: number]
}>()

const svg = ref<SVGSVGElement | null>(null)
const plane = ref<SVGGElement | null>(null)
const sheet = useSheet(
  svg,
  () => props.drawing,
  () => props.level,
)
const level = computed(() => props.drawing.levels.find((own) => own.level_id === props.level))
const rooms = computed(() => props.drawing.rooms.filter((own) => own.level_id === props.level))
const spots = computed(() => props.spots.filter((own) => own.level === props.level))
const walked = computed(() =>
  props.spots.filter((own) => own.number !== undefined).sort((a, b) => (a.number ?? 0) - (b.number ?? 0)),
)
/** Stretches of the way that stay on this level. */
const way = computed(() =>
  walked.value.slice(1).flatMap((to, index) => {
    const from = walked.value[index]
    return from && from.level === props.level && to.level === props.level ? [{ from, to }] : []
  }),
)

const dragged = ref<{ id: string; x: number; y: number; moved: boolean }>()
const place = (own: DrawnSpot) => (dragged.value?.id === own.id ? dragged.value : { x: own.x, y: own.y })

function under(event: MouseEvent): { x: number; y: number } | undefined {
  const matrix = plane.value?.getScreenCTM()?.inverse()
  return matrix ? new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix) : undefined
}

function grab(event: PointerEvent, own: DrawnSpot) {
  if (!props.editable) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  dragged.value = { id: own.id, x: own.x, y: own.y, moved: false }
}
function drag(event: PointerEvent, own: DrawnSpot) {
  const at = under(event)
  if (dragged.value?.id !== own.id || !at) return
  const far = Math.hypot(at.x - own.x, at.y - own.y) > sheet.px(4)
  dragged.value = { id: own.id, x: at.x, y: at.y, moved: dragged.value.moved || far }
}
function drop(own: DrawnSpot) {
  const now = dragged.value
  dragged.value = undefined
  if (now?.moved) emit('move', own.id, now.x, now.y)
  else emit('choose', own.id)
}
const STEP_M = 0.1
function nudge(event: KeyboardEvent, own: DrawnSpot) {
  const step = event.shiftKey ? 10 * STEP_M : STEP_M
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-step, 0],
    ArrowRight: [step, 0],
    ArrowUp: [0, -step],
    ArrowDown: [0, step],
  }
  const own_by = by[event.key]
  if (!props.editable || !own_by) return
  event.preventDefault()
  const [east, south] = sheet.turned.value ? [-own_by[1], own_by[0]] : own_by
  emit('move', own.id, own.x + east, own.y + south)
}
function press(event: MouseEvent) {
  const at = props.adding ? under(event) : undefined
  if (at) emit('add', at.x, at.y)
}
const label = (own: DrawnSpot) =>
  own.number === undefined ? `${own.name}, not walked` : `${own.number}: ${own.name}`
</script>

<template>
  <figure v-if="level && level.width_m > 0">
    <svg
      ref="svg"
      :viewBox="sheet.viewBox.value"
      role="group"
      :aria-label="`Spots on ${level.name}`"
      :class="{ adding }"
      @click="press"
    >
      <g ref="plane" :transform="sheet.transform.value">
        <path
          v-for="room in rooms"
          :key="room.room_id"
          :d="roomPath(room)"
          :class="{ outdoors: room.outdoors }"
        />
        <line
          v-for="(own, index) in way"
          :key="index"
          :x1="own.from.x"
          :y1="own.from.y"
          :x2="own.to.x"
          :y2="own.to.y"
        />
        <g
          v-for="own in spots"
          :key="own.id"
          :transform="sheet.upright(place(own).x, place(own).y)"
          :class="['spot', own.state, { out: own.number === undefined, editable }]"
          role="button"
          tabindex="0"
          :aria-label="label(own)"
          @pointerdown="grab($event, own)"
          @pointermove="drag($event, own)"
          @pointerup="editable && drop(own)"
          @click.stop="!editable && emit('choose', own.id)"
          @keydown.enter="emit('choose', own.id)"
          @keydown.space.prevent="emit('choose', own.id)"
          @keydown="nudge($event, own)"
        >
          <title>{{ label(own) }}</title>
          <circle :r="sheet.px(11)" />
          <text :font-size="sheet.px(12)" :y="sheet.px(4)" text-anchor="middle">
            {{ own.number ?? '·' }}
          </text>
        </g>
      </g>
    </svg>
    <figcaption class="small quiet">
      {{ level.name }}, {{ length(level.width_m, units) }} x {{ length(level.depth_m, units) }}; north is
      {{ sheet.turned.value ? 'left' : 'up' }}
    </figcaption>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  height: 150px;
  background: #fff;
  border: 1px solid var(--line);
  touch-action: none;
}

.adding {
  cursor: crosshair;
}

path {
  fill: #f4ede0;
  stroke: var(--quiet);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
}

.outdoors {
  fill: none;
  stroke-dasharray: 4 3;
}

line {
  stroke: var(--plum);
  stroke-width: 1.5px;
  stroke-dasharray: 1 4;
  stroke-linecap: round;
  vector-effect: non-scaling-stroke;
}

.spot {
  outline: none;
  cursor: pointer;
}

.editable {
  cursor: grab;
}

circle {
  fill: #fff;
  stroke: var(--ink);
  stroke-width: 1.5px;
  vector-effect: non-scaling-stroke;
}

.spot:focus-visible circle {
  stroke: #1f5fa8;
  stroke-width: 4px;
}

text {
  fill: var(--ink);
  font-weight: 700;
  /* A dialog's spacing in pixels would be metres here. */
  letter-spacing: 0;
  pointer-events: none;
}

.met circle {
  fill: var(--leaf);
}

.not_met circle {
  fill: var(--comb);
}

.met text,
.not_met text {
  fill: #fff;
}

.just_met circle {
  fill: var(--yolk);
}

.tested circle {
  fill: var(--straw);
}

.out {
  opacity: 0.65;
}

.out circle {
  stroke-dasharray: 2 2;
}
</style>

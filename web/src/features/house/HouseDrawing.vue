<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

import type {
  Drawing,
  DrawnLesson,
  DrawnPart,
  DrawnRoom,
  HouseChange,
  SaidBy,
  WallSide,
} from '../../api/types'
import NorthMark from '../../shared/NorthMark.vue'
import { useSheet } from '../../shared/useSheet'
import { area, length, sides } from '../../shared/words'
import { useBench } from '../bench'
import CalibratedWalls from './CalibratedWalls.vue'
import TracedPicture from './TracedPicture.vue'
import { type Place, useDrag } from './useDrag'
import { useHouse } from './useHouse'

/** What a press on the drawing does. */
export type Tool = 'choose' | 'room' | 'area' | 'measure' | 'scale'

const props = defineProps<{ tool: Tool; lessons: DrawnLesson[] }>()
const emit = defineEmits<{ measured: [from: Place, to: Place]; done: [] }>()
const turned = defineModel<boolean>('turned', { required: true })

const house = useHouse()
const bench = useBench()
const svg = ref<SVGSVGElement | null>(null)
const inner = ref<SVGGElement | null>(null)
const drawing = computed<Drawing>(() => house.shown.value!)
const levelId = computed(() => house.level.value?.id)
const sheet = useSheet(
  svg,
  () => drawing.value,
  () => levelId.value,
  () => turned.value,
)
const drag = useDrag(house, inner)
const units = house.units

const here = <T extends { level_id: string }>(list: T[]) =>
  list.filter((own) => own.level_id === levelId.value)
const rooms = computed(() => here(drawing.value.rooms))
const walls = computed(() => here(drawing.value.walls))
const openings = computed(() => here(drawing.value.openings))
const stairs = computed(() => here(drawing.value.stairs))
const solids = computed(() => here(drawing.value.solids))
const sockets = computed(() => here(drawing.value.sockets))
/** The storey below, to draw over. */
const ghost = computed(() => {
  const below = house.edit.value?.levels[house.levelIndex.value - 1]
  return below ? drawing.value.rooms.filter((room) => room.level_id === below.id && !room.outdoors) : []
})

const ends = (one: { x1_m: number; y1_m: number; x2_m: number; y2_m: number }) => ({
  x1: one.x1_m,
  y1: one.y1_m,
  x2: one.x2_m,
  y2: one.y2_m,
})
/** What nobody can take hold of is drawn as one path: a key redraws all of it, and each element costs. */
const pathOf = (list: { x1_m: number; y1_m: number; x2_m: number; y2_m: number }[]) =>
  list.map((one) => `M${one.x1_m} ${one.y1_m}L${one.x2_m} ${one.y2_m}`).join('')
const ghostPath = computed(() =>
  ghost.value
    .flatMap((room) => room.parts)
    .map((part) => `M${part.x_m} ${part.y_m}h${part.width_m}v${part.depth_m}h${-part.width_m}z`)
    .join(''),
)
const wallPaths = computed(() => ({
  inner: pathOf(walls.value.filter((wall) => !wall.envelope)),
  envelope: pathOf(walls.value.filter((wall) => wall.envelope)),
}))
const said = computed(() => openings.value.filter((own) => own.said_by))
const unsaid = computed(() => openings.value.filter((own) => !own.said_by))
const openingPaths = computed(() => ({
  cut: pathOf(said.value),
  unsaidCut: pathOf(unsaid.value),
  unsaidDoors: pathOf(unsaid.value.filter((own) => own.kind === 'door' && !own.open)),
  unsaidWindows: pathOf(unsaid.value.filter((own) => own.kind === 'window')),
}))
const box = (part: DrawnPart) => ({ x: part.x_m, y: part.y_m, width: part.width_m, height: part.depth_m })
const SIDES: WallSide[] = ['north', 'east', 'south', 'west']

/** Sides that can be dragged: those where no other part of the room goes on. */
const grips = computed(() =>
  rooms.value.flatMap((room) =>
    room.parts.flatMap((part, index) =>
      SIDES.filter((side) => !goesOn(room, index, side)).map((side) => ({
        room,
        part: index,
        side,
        ...lineOf(part, side),
      })),
    ),
  ),
)

function lineOf(part: DrawnPart, side: WallSide) {
  const [w, n, e, s] = [part.x_m, part.y_m, part.x_m + part.width_m, part.y_m + part.depth_m]
  if (side === 'north') return { x1: w, y1: n, x2: e, y2: n }
  if (side === 'south') return { x1: w, y1: s, x2: e, y2: s }
  if (side === 'east') return { x1: e, y1: n, x2: e, y2: s }
  return { x1: w, y1: n, x2: w, y2: s }
}

/** Whether the first part of a room lies along the whole side of another part. */
function goesOn(room: DrawnRoom, index: number, side: WallSide): boolean {
  const first = room.parts[0]
  const own = room.parts[index]
  if (index === 0 || !first || !own) return false
  const [a, b] = [
    lineOf(own, side),
    lineOf(
      first,
      side === 'north' ? 'south' : side === 'south' ? 'north' : side === 'east' ? 'west' : 'east',
    ),
  ]
  return side === 'north' || side === 'south' ? Math.abs(a.y1 - b.y1) < 0.01 : Math.abs(a.x1 - b.x1) < 0.01
}

/** The largest part carries the name. */
const main = (room: DrawnRoom) =>
  room.parts.reduce((a, b) => (b.width_m * b.depth_m > a.width_m * a.depth_m ? b : a))
const middle = (room: DrawnRoom) => {
  const part = main(room)
  return sheet.upright(part.x_m + part.width_m / 2, part.y_m + part.depth_m / 2)
}
const SMALLEST = 10
/** What is written on each room, worked out once for all that ask. */
const labels = computed(() =>
  rooms.value.map((room) => ({ room, ...label(room), size: sizeFits(room) ? size(room) : '' })),
)
/** The label in lines that fit across the room, at a size that can be read; shortened when not even words do. */
function label(room: DrawnRoom): { lines: string[]; font: number } {
  const part = main(room)
  const across = (turned.value ? part.depth_m : part.width_m) / sheet.px(1)
  const high = (turned.value ? part.width_m : part.depth_m) / sheet.px(1)
  const fits = (text: string, size: number) => text.length * size * 0.54 < across * 0.96
  for (const size of [14, 12, SMALLEST]) {
    if (fits(room.name, size)) return { lines: [room.name], font: size }
  }
  const words = room.name.split(' ')
  if (words.length > 1 && words.every((word) => fits(word, SMALLEST)) && high > words.length * 12) {
    return { lines: words, font: SMALLEST }
  }
  const most = Math.max(2, Math.floor((across * 0.96) / (SMALLEST * 0.54)) - 1)
  return { lines: [`${room.name.slice(0, most)}…`], font: SMALLEST }
}
const sizeFits = (room: DrawnRoom) => {
  const part = main(room)
  const across = (turned.value ? part.depth_m : part.width_m) / sheet.px(1)
  const high = (turned.value ? part.width_m : part.depth_m) / sheet.px(1)
  return across > size(room).length * 5.6 && high > 34
}
const size = (room: DrawnRoom) => sides(main(room), units.value)
const spoken = (room: DrawnRoom) =>
  `${room.name}, ${sides(room, units.value)}, ${area(room.area_m2, units.value)}${room.parts.length > 1 ? `, ${room.parts.length} parts` : ''}`

const step = computed(() => (units.value === 'ft' ? 2 * 0.0254 : 0.05))
const ARROWS: Record<string, [number, number]> = {
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
}

/** Arrow keys move what has the focus, ten steps with Shift; on a turned drawing they move it the way they point. */
function nudge(event: KeyboardEvent, change: (east: number, south: number) => HouseChange) {
  const arrow = ARROWS[event.key]
  if (!arrow || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  event.stopPropagation()
  const by = step.value * (event.shiftKey ? 10 : 1)
  const [right, down] = [arrow[0] * by, arrow[1] * by]
  void house.write([turned.value ? change(-down, right) : change(right, down)])
}

const moveRoom = (room: DrawnRoom) => (east: number, south: number) =>
  ({ what: 'move_room', room: room.name, east_m: east, south_m: south }) as HouseChange
const moveSide = (grip: { room: DrawnRoom; part: number; side: WallSide }) => (east: number, south: number) =>
  ({
    what: 'move_side',
    room: grip.room.name,
    part: grip.part,
    side: grip.side,
    by_m: grip.side === 'east' || grip.side === 'west' ? east : south,
  }) as HouseChange
const moveThing = (by: SaidBy) => (east: number, south: number) =>
  ({ what: 'move_thing', ...by, east_m: east, south_m: south }) as HouseChange

/** What makes a thing that lines say a handle: it can be dragged, moved by keys and taken out; what nobody said is none. */
function handle(by: SaidBy | null | undefined, label: string) {
  if (!by) return {}
  return {
    role: 'button',
    tabindex: isDrawing.value ? -1 : 0,
    'aria-label': label,
    onPointerdown: (event: PointerEvent) => isDrawing.value || drag.start(event, moveThing(by)),
    onKeydown: (event: KeyboardEvent) => thingKeys(event, by),
  }
}

/** Keys of a thing: arrows move it, Delete takes it out. */
function thingKeys(event: KeyboardEvent, by: SaidBy) {
  if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    void house.write([{ what: 'remove_thing', ...by }])
  } else nudge(event, moveThing(by))
}

/** A rectangle or a line that is being drawn. */
const drawn = ref<{ from: Place; to: Place }>()
const isDrawing = computed(() => props.tool !== 'choose')
watch(
  () => props.tool,
  () => (drawn.value = undefined),
)
const around = computed(() => {
  const own = drawn.value
  if (!own) return undefined
  return {
    x: Math.min(own.from.x, own.to.x),
    y: Math.min(own.from.y, own.to.y),
    width: Math.abs(own.to.x - own.from.x),
    height: Math.abs(own.to.y - own.from.y),
  }
})

function down(event: PointerEvent) {
  if (!isDrawing.value || event.button !== 0) return
  const at = drag.placeOf(event)
  drawn.value = { from: at, to: at }
  svg.value?.setPointerCapture(event.pointerId)
}

function move(event: PointerEvent) {
  if (isDrawing.value) {
    if (drawn.value && event.buttons) drawn.value = { from: drawn.value.from, to: drag.placeOf(event) }
  } else drag.move(event)
}

async function up(event: PointerEvent) {
  if (!isDrawing.value) {
    await drag.end(event)
    return
  }
  const own = around.value
  const { from, to } = drawn.value ?? {}
  if (props.tool === 'measure' || props.tool === 'scale') {
    if (from && to) emit('measured', from, to)
    return
  }
  drawn.value = undefined
  if (!own || own.width < 0.2 || own.height < 0.2 || !levelId.value) return
  await house.write(
    [
      {
        what: 'add_room',
        level_id: levelId.value,
        x_m: own.x,
        y_m: own.y,
        width_m: own.width,
        depth_m: own.height,
        outdoors: props.tool === 'area',
      },
    ],
    true,
  )
}

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (event.key !== 'Escape') return
  drag.cancel()
  if (drawn.value) drawn.value = undefined
  else if (isDrawing.value) emit('done')
})

/** The size that is typed in its place. */
const sizing = ref<{ room: DrawnRoom; text: string }>()
const sizeField = ref<HTMLInputElement | null>(null)

async function typeSize(room: DrawnRoom) {
  sizing.value = { room, text: sides(room.parts[0]!, units.value) }
  await nextTick()
  sizeField.value?.select()
}

async function takeSize() {
  const own = sizing.value
  if (own && (await house.write([{ what: 'set_size', room: own.room.name, part: 0, size: own.text }]))) {
    sizing.value = undefined
  }
}

function roomKeys(event: KeyboardEvent, room: DrawnRoom) {
  if (event.key === 'Enter') {
    // The key that opens the field must not be the one that sends it.
    event.preventDefault()
    bench.roomId = room.room_id
    void typeSize(room)
  } else if (event.key === ' ') {
    event.preventDefault()
    bench.roomId = room.room_id
  } else nudge(event, moveRoom(room))
}

const across = computed(() => {
  const own = drawn.value
  return own ? length(Math.hypot(own.to.x - own.from.x, own.to.y - own.from.y), units.value) : ''
})
const socketName = (one: Drawing['sockets'][number]) =>
  `${one.kind.replace('_', ' ')}${one.kind === 'line_entry' ? '' : ' socket'}${one.label ? ` ${one.label}` : ''}`
const MARKS = { power: 'p', network: 'n', coax: 'c', line_entry: 'L' } as const
</script>

<template>
  <figure :class="{ drawing: isDrawing }">
    <svg
      ref="svg"
      :viewBox="sheet.viewBox.value"
      role="group"
      aria-label="The level as drawn"
      :style="{ '--px': `${sheet.px(1)}px` }"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="drag.cancel()"
    >
      <g ref="inner" :transform="sheet.transform.value">
        <TracedPicture v-if="house.level.value?.tracing" :tracing="house.level.value.tracing" />
        <path class="ghost" :d="ghostPath" aria-hidden="true" />
        <g
          v-for="room in rooms"
          :key="room.room_id"
          role="button"
          :tabindex="isDrawing ? -1 : 0"
          :aria-label="spoken(room)"
          :aria-pressed="room.room_id === bench.roomId"
          @click="isDrawing || (bench.roomId = room.room_id)"
          @dblclick="isDrawing || typeSize(room)"
          @pointerdown="isDrawing || drag.start($event, moveRoom(room))"
          @keydown="roomKeys($event, room)"
        >
          <title>{{ spoken(room) }}</title>
          <rect
            v-for="(part, index) in room.parts"
            :key="index"
            v-bind="box(part)"
            :class="{
              outdoors: room.outdoors,
              chosen: room.room_id === bench.roomId,
              over: house.level.value?.tracing,
            }"
          />
        </g>
        <path class="wall" :d="wallPaths.inner" />
        <path class="wall envelope" :d="wallPaths.envelope" />
        <g
          v-for="(grip, index) in grips"
          :key="`grip ${index}`"
          :class="[
            'grip',
            grip.side === 'north' || grip.side === 'south' ? 'upright' : 'level',
            { own: grip.room.room_id === bench.roomId },
          ]"
          :role="grip.room.room_id === bench.roomId ? 'button' : undefined"
          :tabindex="grip.room.room_id === bench.roomId && !isDrawing ? 0 : undefined"
          :aria-label="
            grip.room.room_id === bench.roomId ? `${grip.side} side of ${grip.room.name}` : undefined
          "
          @pointerdown="isDrawing || drag.start($event, moveSide(grip))"
          @keydown="nudge($event, moveSide(grip))"
        >
          <line :x1="grip.x1" :y1="grip.y1" :x2="grip.x2" :y2="grip.y2" />
        </g>
        <g
          v-for="(one, index) in stairs"
          :key="`stairs ${index}`"
          class="stairs"
          :class="{ assumed: one.assumed, said: one.said_by }"
          v-bind="handle(one.said_by, 'stairs')"
        >
          <rect :x="one.x_m" :y="one.y_m" :width="one.width_m" :height="one.depth_m" />
          <template v-if="!one.assumed">
            <line
              v-for="n in 7"
              :key="n"
              :x1="one.depth_m > one.width_m ? one.x_m : one.x_m + (one.width_m * n) / 8"
              :x2="one.depth_m > one.width_m ? one.x_m + one.width_m : one.x_m + (one.width_m * n) / 8"
              :y1="one.depth_m > one.width_m ? one.y_m + (one.depth_m * n) / 8 : one.y_m"
              :y2="one.depth_m > one.width_m ? one.y_m + (one.depth_m * n) / 8 : one.y_m + one.depth_m"
            />
          </template>
        </g>
        <g
          v-for="(one, index) in solids"
          :key="`solid ${index}`"
          class="solid"
          :class="one.kind"
          v-bind="handle(one.said_by, one.kind.replace('_', ' '))"
        >
          <line v-bind="ends(one)" :style="{ strokeWidth: Math.max(one.across_m, sheet.px(4)) }" />
        </g>
        <path class="cut" :d="openingPaths.cut" />
        <g class="assumed">
          <path class="cut" :d="openingPaths.unsaidCut" />
          <path class="door" :d="openingPaths.unsaidDoors" />
          <path class="window" :d="openingPaths.unsaidWindows" />
        </g>
        <g
          v-for="(one, index) in said"
          :key="`opening ${index}`"
          class="opening said"
          v-bind="handle(one.said_by, `${one.kind}, ${one.open ? 'open' : 'shut'}`)"
        >
          <line v-bind="ends(one)" :class="[one.kind, { open: one.open }]" />
          <line v-bind="ends(one)" class="hit" />
        </g>
        <g
          v-for="(one, index) in sockets"
          :key="`socket ${index}`"
          class="socket"
          :class="[one.kind, one.state]"
          v-bind="handle(one.said_by, socketName(one))"
        >
          <title>
            {{
              [
                one.kind.replace('_', ' '),
                one.label,
                one.circuit && `circuit ${one.circuit}`,
                one.ends && `ends ${one.ends}`,
                one.state === 'usable' ? '' : one.state,
              ]
                .filter(Boolean)
                .join(', ')
            }}
          </title>
          <circle :cx="one.x_m" :cy="one.y_m" :r="sheet.px(7)" />
          <text
            :transform="sheet.upright(one.x_m, one.y_m)"
            :font-size="sheet.px(10)"
            :y="sheet.px(3.5)"
            text-anchor="middle"
          >
            {{ MARKS[one.kind] }}
          </text>
        </g>
        <g
          v-for="own in labels"
          :key="`label ${own.room.room_id}`"
          :transform="middle(own.room)"
          aria-hidden="true"
          class="label"
        >
          <text
            v-for="(line, index) in own.lines"
            :key="index"
            :font-size="sheet.px(own.font)"
            :y="sheet.px((index - (own.lines.length - 1) / 2) * 12 + (own.size ? -2 : 4))"
            text-anchor="middle"
          >
            {{ line }}
          </text>
          <text
            v-if="own.size"
            :font-size="sheet.px(11)"
            :y="sheet.px(12 + (own.lines.length - 1) * 6)"
            text-anchor="middle"
            class="size"
          >
            {{ own.size }}
          </text>
        </g>
        <CalibratedWalls v-if="levelId" :lessons="lessons" :level-id="levelId" :sheet="sheet" />
        <template v-if="drawn && around">
          <rect v-if="tool === 'room' || tool === 'area'" v-bind="around" class="drawn" />
          <line v-else :x1="drawn.from.x" :y1="drawn.from.y" :x2="drawn.to.x" :y2="drawn.to.y" class="tape" />
        </template>
      </g>
    </svg>
    <p v-if="drawn && (tool === 'measure' || tool === 'scale')" class="read small" role="status">
      {{ across }}
    </p>
    <p v-else-if="drawn && around" class="read small" role="status">
      {{ sides({ width_m: around.width, depth_m: around.height }, units) }}
    </p>
    <form v-if="sizing" class="sizing" @submit.prevent="takeSize" @keydown.esc.stop="sizing = undefined">
      <label>
        Width x depth of {{ sizing.room.name }}
        <input ref="sizeField" v-model="sizing.text" />
      </label>
      <v-btn size="small" type="submit">Set</v-btn>
      <v-btn size="small" variant="text" @click="sizing = undefined">Leave</v-btn>
    </form>
    <p v-if="house.refused.value" class="refused small" role="alert">{{ house.refused.value }}</p>
    <figcaption>
      <NorthMark :turned="turned" />
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  background: #fff;
  border: 1px solid var(--line);
  position: relative;
  min-height: 0;
  height: 100%;
  /* What changes in it moves nothing around it. */
  contain: layout paint;
}

svg {
  width: 100%;
  height: 100%;
  display: block;
  touch-action: none;
  user-select: none;
}

.drawing svg {
  cursor: crosshair;
}

rect {
  fill: #f3eee1;
}

rect.over {
  fill-opacity: 0.45;
}

rect.outdoors {
  fill: #fff;
  fill-opacity: 0.01;
  stroke: var(--leaf);
  stroke-width: calc(var(--px) * 1.5);
  stroke-dasharray: calc(var(--px) * 4) calc(var(--px) * 4);
}

rect.chosen {
  fill: var(--select);
  fill-opacity: 0.8;
}

.ghost {
  fill: none;
  stroke: #b9b2a2;
  stroke-width: calc(var(--px) * 1);
  stroke-dasharray: calc(var(--px) * 6) calc(var(--px) * 3);
}

[role='button'] {
  cursor: grab;
  outline: none;
}

[role='button']:focus-visible rect,
[role='button']:focus-visible circle {
  stroke: #1f5fa8;
  stroke-width: calc(var(--px) * 3);
}

[role='button']:focus-visible line {
  stroke: #1f5fa8;
  stroke-width: calc(var(--px) * 5);
}

line,
.wall {
  fill: none;
  stroke: var(--ink);
  stroke-width: calc(var(--px) * 1.5);
}

.wall,
.label,
.cut,
.ghost {
  pointer-events: none;
}

.envelope {
  stroke-width: calc(var(--px) * 4);
}

.grip line {
  stroke: transparent;
  stroke-width: calc(var(--px) * 11);
}

.grip.upright {
  cursor: ns-resize;
}

.grip.level {
  cursor: ew-resize;
}

.grip.own:hover line,
.grip:hover line {
  stroke: rgb(31 95 168 / 35%);
}

.drawing .grip,
.drawing [role='button'] {
  pointer-events: none;
}

.cut {
  fill: none;
  stroke: #fff;
  stroke-width: calc(var(--px) * 6);
}

.door,
.window {
  stroke: var(--quiet);
  stroke-width: calc(var(--px) * 2);
  pointer-events: none;
}

.door.open {
  stroke: none;
}

.window {
  stroke: #1f5fa8;
  stroke-width: calc(var(--px) * 3);
}

.hit {
  stroke: transparent;
  stroke-width: calc(var(--px) * 14);
}

.said:hover .hit {
  stroke: rgb(31 95 168 / 35%);
}

.assumed path {
  stroke-dasharray: calc(var(--px) * 2) calc(var(--px) * 3);
}

.assumed .cut {
  stroke-width: calc(var(--px) * 4);
}

.stairs rect {
  fill: #fff;
  fill-opacity: 0.4;
  stroke: var(--quiet);
  stroke-width: calc(var(--px) * 1);
}

.stairs line {
  stroke: var(--quiet);
  stroke-width: calc(var(--px) * 1);
}

.stairs.assumed {
  pointer-events: none;
}

.stairs.assumed rect {
  stroke-dasharray: calc(var(--px) * 2) calc(var(--px) * 3);
}

.solid line {
  stroke: #8a8578;
}

.solid.hedge line {
  stroke: var(--leaf);
  stroke-opacity: 0.7;
}

.socket circle {
  fill: #fff;
  stroke: var(--ink);
  stroke-width: calc(var(--px) * 1.5);
}

.socket.line_entry circle {
  fill: var(--ink);
}

.socket.line_entry text {
  fill: #fff;
}

.socket.sealed circle,
.socket.dead circle {
  stroke-dasharray: calc(var(--px) * 2) calc(var(--px) * 2);
  fill: #eee;
}

text {
  fill: var(--ink);
  pointer-events: none;
}

.size {
  fill: var(--quiet);
}

.drawn {
  fill: rgb(31 95 168 / 15%);
  stroke: #1f5fa8;
  stroke-width: calc(var(--px) * 1.5);
}

.tape {
  stroke: #1f5fa8;
  stroke-width: calc(var(--px) * 2);
}

.read {
  position: absolute;
  left: 8px;
  top: 8px;
  margin: 0;
  padding: 2px 8px;
  background: var(--ink);
  color: #fff;
}

.sizing {
  position: absolute;
  left: 50%;
  top: 40%;
  transform: translate(-50%, -50%);
  background: #fff;
  border: 1px solid var(--ink);
  padding: 10px;
  display: flex;
  gap: 8px;
  align-items: end;
}

.sizing label {
  display: grid;
  gap: 2px;
  font-size: 0.85rem;
}

.sizing input {
  border: 0;
  border-bottom: 1px solid var(--ink);
  padding: 4px;
  font: inherit;
}

.refused {
  position: absolute;
  left: 8px;
  bottom: 6px;
  margin: 0;
  color: var(--comb);
  background: #fff;
  padding: 2px 6px;
}

figcaption {
  position: absolute;
  right: 8px;
  bottom: 4px;
}
</style>

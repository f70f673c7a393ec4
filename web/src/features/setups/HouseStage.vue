<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { ChainView, Device, DrawnRoom, HomeView, Position, Setup } from '../../api/types'
import NorthMark from '../../shared/NorthMark.vue'
import { roomPath } from '../../shared/roomPath'
import { useCatalogue } from '../../shared/useCatalogue'
import { useLatest } from '../../shared/useLatest'
import { area, length, speed, verdictWord } from '../../shared/words'
import { useBench, useHome } from '../bench'
import AerialArrow from './AerialArrow.vue'
import CableWays from './CableWays.vue'
import WalkWay from './WalkWay.vue'
import DeviceShape from './DeviceShape.vue'
import LevelCoverage from './LevelCoverage.vue'
import MapLegend from './MapLegend.vue'
import ReadOut from './ReadOut.vue'
import { type Line, type Rect, baselines, blockSize } from './labels'
import { useStage } from './useStage'
import { useWords } from './useWords'

const props = defineProps<{ view: HomeView; setup: Setup }>()
const emit = defineEmits<{
  drop: []
  nudge: [at: Position, id: string]
  remove: [id: string]
  turn: [id: string, towards: number]
}>()

/** Side of a device's shape, and steps of the arrow keys. */
const DEVICE_PX = 26
const LEGEND_PX = 48

const bench = useBench()
const home = useHome()
const catalogue = useCatalogue()
const svg = ref<SVGSVGElement | null>(null)
const stage = useStage(
  svg,
  () => props.view.drawing,
  () => bench.enlarged,
  () => LEGEND_PX,
)

const light = computed(() => bench.light)
const shades = computed(() => light.value?.shades ?? [])
const levels = computed(() => stage.placed.value)
const roomsOf = (id: string) => props.view.drawing.rooms.filter((room) => room.level_id === id)
const wallsOf = (id: string) => props.view.drawing.walls.filter((wall) => wall.level_id === id)
const litOf = (id: string) => light.value?.levels.find((own) => own.level_id === id)
const row = (room: DrawnRoom) => light.value?.ledger.find((own) => own.room_id === room.room_id)

const placeOf = (device: Device): Position => (bench.moved?.device === device.id ? bench.moved.at : device.at)
const letter = (device: Device) => device.name.trim().charAt(0).toUpperCase()
const levelName = (id: string) => props.view.home.house.levels.find((level) => level.id === id)?.name ?? ''
const shown = (value: number) => length(value, props.view.home.units)

const devices = computed(() =>
  props.setup.devices.flatMap((device) => {
    const at = stage.px(placeOf(device))
    return at ? [{ device, at }] : []
  }),
)

/** A line that goes to and fro a little across its course. */
function zigzag(a: { x: number; y: number }, b: { x: number; y: number }): string {
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  const long = Math.hypot(dx, dy)
  const teeth = Math.max(2, Math.round(long / 9))
  const [across, along] = [4 / (long || 1), 1 / teeth]
  const points = Array.from({ length: teeth - 1 }, (_, i) => {
    const side = (i % 2 === 0 ? 1 : -1) * across
    return `L${a.x + dx * along * (i + 1) - dy * side} ${a.y + dy * along * (i + 1) + dx * side}`
  })
  return `M${a.x} ${a.y}${points.join('')}L${b.x} ${b.y}`
}

const hops = computed(() =>
  (light.value?.hops ?? []).flatMap((hop) => {
    const own = props.setup.devices.find((device) => device.id === hop.device)
    const to = props.setup.devices.find((device) => device.id === hop.to)
    const a = own && stage.px(placeOf(own))
    const b = to && stage.px(placeOf(to))
    if (!a || !b) return []
    const d = hop.by === 'power_line' ? zigzag(a, b) : `M${a.x} ${a.y}L${b.x} ${b.y}`
    return [{ hop, a, b, d, width: 1.5 + Math.log10((hop.down_mbps ?? 0) + 1) }]
  }),
)

const whole = computed<Rect>(() => ({
  x: 0,
  y: 0,
  width: stage.width.value,
  height: stage.height.value - LEGEND_PX,
}))

const deviceName = (id: string) => props.setup.devices.find((own) => own.id === id)?.name ?? 'a device'
const words = useWords({ stage, hops, devices, whole, view: () => props.view, devicePx: DEVICE_PX })

/** Where the pointer is, in pixels of the stage. */
function pixels(event: { clientX: number; clientY: number }): { x: number; y: number } {
  const box = svg.value?.getBoundingClientRect()
  return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) }
}

function placeUnder(event: { clientX: number; clientY: number }) {
  const at = pixels(event)
  return stage.place(at.x, at.y)
}

defineExpose({ placeUnder })

let pressed: string | undefined
let dragged: { device: Device; dx: number; dy: number } | undefined
const dragging = ref(false)

function grab(event: PointerEvent, device: Device) {
  // Choosing it opens its settings, and nothing may move under a pressed pointer: that waits for the release.
  pressed = device.id
  const own = stage.px(placeOf(device))
  if (!own) return
  const at = pixels(event)
  dragged = { device, dx: own.x - at.x, dy: own.y - at.y }
  dragging.value = true
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  hover.value = undefined
}

function drag(event: PointerEvent) {
  if (!dragged) return
  const { device, dx, dy } = dragged
  const pointer = pixels(event)
  const at = stage.place(pointer.x + dx, pointer.y + dy)
  if (at) bench.moved = { device: device.id, at: { ...placeOf(device), ...at } }
}

function release() {
  dragged = undefined
  dragging.value = false
  if (bench.moved) emit('drop')
  if (pressed) bench.openDevice(pressed)
  pressed = undefined
}

/** Steps on the screen, turned into steps of the house. */
function key(event: KeyboardEvent, device: Device) {
  if (event.key === 'Delete') {
    event.preventDefault()
    emit('remove', device.id)
    return
  }
  if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    bench.openDevice(device.id)
    return
  }
  const at = placeOf(device)
  if (event.key === 'PageUp' || event.key === 'PageDown') {
    const all = props.view.home.house.levels
    const next = all[all.findIndex((own) => own.id === at.level_id) + (event.key === 'PageUp' ? 1 : -1)]
    event.preventDefault()
    event.stopPropagation()
    bench.deviceId = device.id
    if (next) emit('nudge', { ...at, level_id: next.id }, device.id)
    return
  }
  const steps: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  const step = steps[event.key]
  if (!step) return
  event.preventDefault()
  event.stopPropagation()
  const [little, much] = props.view.home.units === 'ft' ? [0.1016, 0.9144] : [0.1, 1]
  const by = event.shiftKey ? much : little
  const [right, down] = step
  const [east, south] = stage.turned.value ? [-down, right] : [right, down]
  const round = (value: number) => Math.round(value * 100) / 100
  bench.deviceId = device.id
  emit('nudge', { ...at, x_m: round(at.x_m + east * by), y_m: round(at.y_m + south * by) }, device.id)
}

const hover = shallowRef<{ left: number; top: number; answer: ChainView }>()
const ask = useLatest(async (event: { clientX: number; clientY: number }) => {
  const at = placeUnder(event)
  if (!at || dragged) {
    hover.value = undefined
    return
  }
  try {
    const { level_id, x_m, y_m } = at
    const found = await answer(
      api.POST('/api/homes/{home}/setups/{setup}/chain', {
        params: { path: { home: home.id, setup: props.setup.id } },
        body: { ask: bench.ask, level_id, x_m, y_m, moved: null },
      }),
    )
    const { x, y } = pixels(event)
    const flip = x > stage.width.value - 280
    hover.value =
      over && found.room_id
        ? { left: flip ? x - 276 : x + 14, top: Math.min(y + 14, stage.height.value - 90), answer: found }
        : undefined
  } catch {
    hover.value = undefined
  }
})
let over = false

const pointers = new Map<number, { x: number; y: number }>()
let moving: { x: number; y: number } | undefined

/** Two fingers bring the map nearer; one finger, or the mouse, moves what is larger than the stage. */
function press(event: PointerEvent) {
  pointers.set(event.pointerId, pixels(event))
  moving = stage.zoom.by > 1 ? pixels(event) : undefined
  if (event.pointerType === 'touch') point(event)
}

function point(event: PointerEvent) {
  const now = pixels(event)
  if (pointers.has(event.pointerId) && pointers.size === 2) {
    const before = [...pointers.values()]
    pointers.set(event.pointerId, now)
    const after = [...pointers.values()]
    const span = ([a, b]: { x: number; y: number }[]) => Math.hypot(a!.x - b!.x, a!.y - b!.y)
    const middle = { x: (after[0]!.x + after[1]!.x) / 2, y: (after[0]!.y + after[1]!.y) / 2 }
    stage.zoomAt(middle.x, middle.y, span(after) / Math.max(1, span(before)))
    return
  }
  if (moving && event.buttons && !dragged) {
    stage.pan(now.x - moving.x, now.y - moving.y)
    moving = now
    hover.value = undefined
    return
  }
  if (dragged) return
  over = true
  ask(event)
}

function lift(event: PointerEvent) {
  pointers.delete(event.pointerId)
  moving = undefined
}

function leave(event: PointerEvent) {
  lift(event)
  over = false
  hover.value = undefined
}

function wheel(event: WheelEvent) {
  event.preventDefault()
  const { x, y } = pixels(event)
  stage.zoomAt(x, y, Math.exp(-event.deltaY / 400))
}

/** Keys of the map itself. */
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const target = event.target as HTMLElement
  if (!bench.keysOn || event.ctrlKey || event.metaKey || event.altKey) return
  if (
    target.closest(
      'input, textarea, select, [contenteditable], [role=combobox], [role=listbox], [role=dialog], [role=menu]',
    )
  )
    return
  const middle = { x: stage.width.value / 2, y: stage.height.value / 2 }
  if (event.key === '+') stage.zoomAt(middle.x, middle.y, 1.25)
  else if (event.key === '-') stage.zoomAt(middle.x, middle.y, 0.8)
  else if (event.key === '0') stage.whole()
  else return
  event.preventDefault()
})
watch(
  () => bench.enlarged,
  () => stage.whole(),
)

function choose(room: DrawnRoom) {
  bench.openRoom(room.room_id)
}

/** A room as it is read out. */
function spoken(room: DrawnRoom): string {
  const own = row(room)
  if (!own) return room.name
  const predicted = own.no_port ? 'no port here' : `${speed(own.predicted.down.middle)} Mb/s down predicted`
  const measured = own.measured
    ? `${speed(own.measured.down_mbps.median)} Mb/s down ${own.made_up ? 'made up' : 'measured'}`
    : 'not tested'
  const got = bench.showMeasured ? measured : predicted
  const verdict = bench.showMeasured ? own.measured_verdict : own.predicted_verdict
  return `${room.name}, ${levelName(room.level_id)}: ${got}${verdict ? `, ${verdictWord[verdict]}` : ''}`
}

/** With the readings shown, a room has the shade of what was measured in it, and none where nothing was. */
const showsReadings = computed(() => bench.showMeasured && bench.layer.kind === 'works')
const stepPlace = (step: string | null | undefined) =>
  catalogue.value?.steps.findIndex((own) => own.step === step) ?? -1
const read = (levelId: string) =>
  roomsOf(levelId).flatMap((room) => {
    const shade = shades.value[stepPlace(row(room)?.measured_step)]
    return shade ? [{ room, shade }] : []
  })

/** The empty dark beside the smallest storey: room for what is worth saying. */
const spare = computed<Rect | undefined>(() => {
  if (!stage.laid.value.column || stage.zoom.by > 1) return undefined
  const free = levels.value.map((level) => ({
    x: level.x + level.width + 34,
    y: level.y,
    width: stage.width.value - level.x - level.width - 50,
    height: level.height,
  }))
  return free
    .filter((own) => own.width >= 250 && own.height >= 74)
    .sort((a, b) => b.width * b.height - a.width * a.height)[0]
})
/** Hatches are drawn inside of levels, which are in metres. */
const inPixels = computed(() => `scale(${1 / stage.scale.value})`)
const storey = (level: { name: string; area_m2: number }) => {
  const lines: Line[] = [{ text: level.name, size: 12, strong: true }]
  return blockSize(lines)
}
</script>

<template>
  <div class="map">
    <svg
      ref="svg"
      role="group"
      aria-label="Map of the house"
      @pointerdown="press"
      @pointermove="point"
      @pointerup="lift"
      @pointercancel="lift"
      @pointerleave="leave"
      @wheel="wheel"
    >
      <defs>
        <pattern
          id="hatch-rising"
          width="7"
          height="7"
          patternUnits="userSpaceOnUse"
          :patternTransform="inPixels"
        >
          <path d="M0 7L7 0" class="hatch" />
        </pattern>
        <pattern
          id="hatch-falling"
          width="7"
          height="7"
          patternUnits="userSpaceOnUse"
          :patternTransform="inPixels"
        >
          <path d="M0 0L7 7" class="hatch" />
        </pattern>
        <pattern
          id="hatch-crossed"
          width="7"
          height="7"
          patternUnits="userSpaceOnUse"
          :patternTransform="inPixels"
        >
          <path d="M0 7L7 0M0 0L7 7" class="hatch" />
        </pattern>
      </defs>
      <g v-for="level in levels" :key="level.level_id">
        <g :transform="stage.transform(level.level_id)">
          <clipPath :id="`rooms-${level.level_id}`">
            <path v-for="room in roomsOf(level.level_id)" :key="room.room_id" :d="roomPath(room)" />
          </clipPath>
          <path
            v-for="room in roomsOf(level.level_id)"
            :key="room.room_id"
            :d="roomPath(room)"
            class="dark"
          />
          <template v-if="showsReadings">
            <template v-for="{ room, shade } in read(level.level_id)" :key="room.room_id">
              <path :d="roomPath(room)" :style="{ fill: shade.colour }" class="read" />
              <path
                v-if="shade.hatch"
                :d="roomPath(room)"
                :fill="`url(#hatch-${shade.hatch})`"
                class="read"
              />
            </template>
          </template>
          <LevelCoverage
            v-else-if="litOf(level.level_id)"
            :lit="litOf(level.level_id)!"
            :shades="shades"
            :scale="stage.scale.value"
            :fine="bench.layer.kind === 'works'"
          />
          <path
            v-for="room in roomsOf(level.level_id)"
            :key="room.room_id"
            :d="roomPath(room)"
            class="room"
            :class="{ outdoors: room.outdoors, chosen: room.room_id === bench.roomId }"
            role="button"
            tabindex="0"
            :aria-label="spoken(room)"
            :aria-pressed="room.room_id === bench.roomId"
            @click="choose(room)"
            @keydown.enter.prevent="choose(room)"
            @keydown.space.prevent="choose(room)"
          />
          <line
            v-for="(wall, index) in wallsOf(level.level_id)"
            :key="index"
            :x1="wall.x1_m"
            :y1="wall.y1_m"
            :x2="wall.x2_m"
            :y2="wall.y2_m"
            class="wall"
            :class="{ envelope: wall.envelope }"
          />
          <line
            v-for="(part, index) in bench.pointed.filter((own) => own.level_id === level.level_id)"
            :key="`pointed ${index}`"
            :x1="part.x1_m"
            :y1="part.y1_m"
            :x2="part.x2_m"
            :y2="part.y2_m"
            class="pointed"
          />
        </g>
      </g>
      <g v-for="{ hop, d, width } in hops" :key="hop.device" class="hop">
        <path
          :d="d"
          class="halo"
          :style="{ strokeWidth: `${hop.by === 'coax' ? width + 6 : width + 3}px` }"
        />
        <path
          :d="d"
          :class="[hop.by, { broken: hop.down_mbps == null }]"
          :style="{ strokeWidth: `${hop.by === 'coax' ? width + 3 : width}px` }"
        />
        <path v-if="hop.by === 'coax'" :d="d" class="gap" :style="{ strokeWidth: `${width}px` }" />
      </g>
      <CableWays v-if="bench.ways.length" :ways="bench.ways" :stage="stage" />
      <WalkWay v-if="bench.walk" :walk="bench.walk" :setup="setup" :stage="stage" />
      <g
        v-for="{ room, label, ink } in words.rooms"
        :key="room.room_id"
        class="words"
        :class="{ ink, made: bench.showMeasured && row(room)?.made_up }"
        :data-label="room.name"
      >
        <text
          v-for="(line, index) in label.lines"
          :key="index"
          :x="label.x"
          :y="label.y + baselines(label.lines)[index]!"
          :font-size="line.size"
          :font-weight="line.strong ? 700 : 400"
        >
          {{ line.text }}
        </text>
      </g>
      <g v-for="{ label, key: name } in words.figures" :key="name" class="fine-figure" :data-label="name">
        <text :x="label.x" :y="label.y + baselines(label.lines)[0]!" :font-size="label.lines[0]!.size">
          {{ label.lines[0]!.text }}
        </text>
      </g>
      <g
        v-for="{ id, label, broken } in words.hopNames"
        :key="`name ${id}`"
        class="hop-name"
        :class="{ broken }"
        data-label="hop"
        role="button"
        tabindex="0"
        :aria-label="`Why ${label.lines[0]!.text}? The link of ${deviceName(id)}`"
        @pointerdown.stop
        @click.stop="bench.openDevice(id)"
        @keydown.enter.space.prevent.stop="bench.openDevice(id)"
      >
        <rect :x="label.x - 4" :y="label.y - 1" :width="label.width + 8" :height="label.height + 2" />
        <text :x="label.x" :y="label.y + baselines(label.lines)[0]!" :font-size="11.5">
          {{ label.lines[0]!.text }}
        </text>
      </g>
      <g
        v-for="{ device, at } in devices"
        :key="device.id"
        :transform="`translate(${at.x} ${at.y})`"
        class="device"
        role="button"
        tabindex="0"
        :data-device="device.name"
        :aria-label="`${device.name} on ${levelName(placeOf(device).level_id)}, ${shown(placeOf(device).x_m)} east, ${shown(placeOf(device).y_m)} south; arrows move it`"
        :aria-pressed="device.id === bench.deviceId"
        @pointerdown.stop="grab($event, device)"
        @pointermove.stop="drag"
        @pointerup.stop="release"
        @pointercancel="release"
        @keydown="key($event, device)"
      >
        <DeviceShape :mode="device.mode" :size="DEVICE_PX" :chosen="device.id === bench.deviceId" />
        <AerialArrow
          v-if="device.id === bench.deviceId && device.aerial && device.aerial.kind !== 'built_in'"
          :aerial="device.aerial"
          :turned="stage.turned.value"
          :name="device.name"
          @turn="emit('turn', device.id, $event)"
        />
        <text class="letter" :font-size="12.5" y="4.6" text-anchor="middle" aria-hidden="true">
          {{ letter(device) }}
        </text>
      </g>
    </svg>
    <button
      v-for="level in levels"
      :key="level.level_id"
      type="button"
      class="storey"
      :style="
        stage.laid.value.column
          ? { left: '10px', top: `${Math.max(2, level.y)}px`, maxWidth: '60px' }
          : { left: `${Math.max(4, level.x)}px`, top: `${Math.max(2, level.y - storey(level).height - 6)}px` }
      "
      :aria-pressed="bench.enlarged === level.level_id"
      :title="bench.enlarged ? 'Show all storeys (Esc)' : `Enlarge ${level.name}`"
      @click="bench.enlarged = bench.enlarged ? undefined : level.level_id"
    >
      {{ level.name }}
      <small v-if="stage.laid.value.column">{{ area(level.area_m2, view.home.units) }}</small>
    </button>
    <div class="corner">
      <button v-if="bench.enlarged" type="button" @click="bench.enlarged = undefined">
        All storeys <kbd>Esc</kbd>
      </button>
      <button v-if="stage.zoom.by > 1" type="button" @click="stage.whole()">Whole map <kbd>0</kbd></button>
      <NorthMark :turned="stage.turned.value" />
    </div>
    <div
      v-if="spare"
      class="spare"
      :style="{
        left: `${spare.x}px`,
        top: `${spare.y}px`,
        width: `${Math.min(spare.width, 420)}px`,
        maxHeight: `${spare.height}px`,
      }"
    >
      <slot name="spare" />
    </div>
    <div
      v-if="hover"
      class="hover"
      :style="{ left: `${hover.left}px`, top: `${hover.top}px` }"
      aria-hidden="true"
    >
      <ReadOut :answer="hover.answer" :setup="setup" />
    </div>
    <MapLegend
      :light="light"
      :readings="showsReadings ? bench.ledger : undefined"
      :made-up="bench.showMeasured && bench.ledger.some((own) => own.made_up)"
    />
  </div>
</template>

<style scoped>
.map {
  background: var(--night);
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
}

svg {
  position: absolute;
  inset: 0;
  height: 100%;
  width: 100%;
  touch-action: none;
}

.hatch {
  stroke: rgb(20 27 46 / 55%);
  stroke-width: 1px;
  fill: none;
}

.dark {
  fill: #0d1221;
}

.read {
  pointer-events: none;
}

.room {
  fill: transparent;
  stroke: none;
  cursor: pointer;
}

.room.outdoors {
  stroke: #5a6079;
  stroke-width: 1px;
  stroke-dasharray: 3 4;
  vector-effect: non-scaling-stroke;
}

.room:focus-visible,
.room.outdoors:focus-visible {
  outline: none;
  stroke: #7fb7ff;
  stroke-width: 4px;
  vector-effect: non-scaling-stroke;
}

.room.chosen {
  stroke: var(--comb);
  stroke-width: 4px;
  vector-effect: non-scaling-stroke;
}

.wall {
  stroke: #060a15;
  stroke-width: 2.5px;
  vector-effect: non-scaling-stroke;
  pointer-events: none;
}

.wall.envelope {
  stroke-width: 5px;
}

.pointed {
  stroke: var(--comb);
  stroke-width: 8px;
  vector-effect: non-scaling-stroke;
  pointer-events: none;
}

.words,
.fine-figure,
.hop {
  pointer-events: none;
}

.hop-name {
  cursor: pointer;
  outline: none;
}

.hop-name:focus-visible rect {
  stroke: #1f5fa8;
  stroke-width: 3px;
}

.words {
  fill: var(--paper);
  stroke: rgb(20 27 46 / 70%);
  stroke-width: 3px;
  paint-order: stroke;
}

.words.ink {
  fill: var(--ink);
  stroke: rgb(255 250 236 / 55%);
}

.words.made text:nth-child(2) {
  font-style: italic;
}

.fine-figure text {
  fill: var(--ink);
  stroke: rgb(255 250 236 / 80%);
  stroke-width: 3px;
  paint-order: stroke;
}

.hop path {
  fill: none;
  stroke: var(--night);
  stroke-linecap: round;
}

.hop .halo {
  stroke: rgb(255 255 255 / 65%);
}

.hop .radio {
  stroke-dasharray: 0.1 8;
}

.hop .gap {
  stroke: #fff;
}

.hop .broken {
  stroke: var(--comb);
}

.hop-name rect {
  fill: var(--night);
}

.hop-name text {
  fill: var(--paper);
  font-weight: 600;
}

.hop-name.broken rect {
  fill: var(--comb);
}

.device {
  cursor: grab;
  outline: none;
}

.device:focus-visible :deep(path) {
  stroke: #1f5fa8;
  stroke-width: 4px;
}

.letter {
  pointer-events: none;
  fill: var(--night);
  font-weight: 700;
}

.storey {
  position: absolute;
  color: var(--paper);
  font-size: 0.78rem;
  line-height: 1.15;
  overflow-wrap: break-word;
}

.storey small {
  display: block;
  color: #a9afc2;
  font-size: 0.7rem;
}

.corner {
  position: absolute;
  right: 10px;
  top: 4px;
  color: var(--paper);
  display: flex;
  gap: 12px;
  align-items: baseline;
  font-size: 0.78rem;
}

.corner button {
  text-decoration: underline;
}

.spare {
  position: absolute;
  color: var(--paper);
  overflow: hidden;
  font-size: 0.82rem;
}

.hover {
  position: absolute;
  background: var(--night);
  color: var(--paper);
  border: 1px solid #5a6079;
  padding: 5px 9px;
  font-size: 0.78rem;
  pointer-events: none;
  width: 262px;
  z-index: 2;
}
</style>

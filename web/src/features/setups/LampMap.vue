<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'

import { answer, api } from '../../api/client'
import type { ChainView, Device, DrawnRoom, HomeView, Position, Setup } from '../../api/types'
import { roomPath } from '../../shared/roomPath'
import NorthMark from '../../shared/NorthMark.vue'
import { useCatalogue } from '../../shared/useCatalogue'
import { useLatest } from '../../shared/useLatest'
import { useSheet } from '../../shared/useSheet'
import { area, length, speed, stepColour, textOn } from '../../shared/words'
import { useBench, useHome } from '../bench'
import DeviceShape from './DeviceShape.vue'

const props = defineProps<{ view: HomeView; setup: Setup }>()
const emit = defineEmits<{ drop: []; nudge: [at: Position, id: string]; remove: [id: string] }>()

const bench = useBench()
const home = useHome()
const catalogue = useCatalogue()
const svg = ref<SVGSVGElement | null>(null)
const ground = ref<SVGGElement | null>(null)
const sheet = useSheet(
  svg,
  () => props.view.drawing,
  () => bench.levelId,
)

const rooms = computed(() => props.view.drawing.rooms.filter((room) => room.level_id === bench.levelId))
const walls = computed(() => props.view.drawing.walls.filter((wall) => wall.level_id === bench.levelId))
const light = computed(() => (bench.light?.level_id === bench.levelId ? bench.light : undefined))
const bands = computed(
  () => light.value?.map.bands.map((band) => ({ step: band.step, d: path(band.polygons) })) ?? [],
)
const deadOutline = computed(() => path(light.value?.map.dead_outlines ?? []))

/** Rings of polygons as one path; holes come out by the even-odd rule. */
function path(polygons: number[][][]): string {
  return polygons
    .flat()
    .map((ring) => {
      let d = ''
      for (let i = 0; i + 1 < ring.length; i += 2) d += `${i === 0 ? 'M' : 'L'}${ring[i]} ${ring[i + 1]}`
      return `${d}Z`
    })
    .join('')
}

const placeOf = (device: Device): Position => (bench.moved?.device === device.id ? bench.moved.at : device.at)
const letter = (device: Device) => device.name.trim().charAt(0).toUpperCase()
const here = (device: Device) => placeOf(device).level_id === bench.levelId
const levelName = (id: string) => props.view.home.house.levels.find((level) => level.id === id)?.name ?? ''

/** A line that goes to and fro a little across its course. */
function zigzag(a: Position, b: Position): string {
  const [dx, dy] = [b.x_m - a.x_m, b.y_m - a.y_m]
  const long = Math.hypot(dx, dy)
  const teeth = Math.max(2, Math.round(long / sheet.px(9)))
  const [across, along] = [sheet.px(4) / (long || 1), 1 / teeth]
  const points = Array.from({ length: teeth - 1 }, (_, i) => {
    const side = (i % 2 === 0 ? 1 : -1) * across
    return `L${a.x_m + dx * along * (i + 1) - dy * side} ${a.y_m + dy * along * (i + 1) + dx * side}`
  })
  return `M${a.x_m} ${a.y_m}${points.join('')}L${b.x_m} ${b.y_m}`
}

const hops = computed(() =>
  (bench.light?.hops ?? []).flatMap((hop) => {
    const own = props.setup.devices.find((device) => device.id === hop.device)
    const to = props.setup.devices.find((device) => device.id === hop.to)
    if (!own || !to || (!here(own) && !here(to))) return []
    const a = placeOf(own)
    const b = placeOf(to)
    const capacity = hop.down_mbps ?? 0
    return [
      {
        hop,
        line: hop.by === 'power_line' ? zigzag(a, b) : `M${a.x_m} ${a.y_m}L${b.x_m} ${b.y_m}`,
        x: (a.x_m + b.x_m) / 2,
        y: (a.y_m + b.y_m) / 2,
        width: 1.5 + Math.log10(capacity + 1),
      },
    ]
  }),
)

const pins = computed(() => {
  if (!light.value) return []
  return rooms.value.flatMap((room) => {
    const row = light.value?.ledger.find((own) => own.room_id === room.room_id)
    const spot = props.view.home.house.spots.find((own) => own.id === row?.measured_spot_id)
    if (!row?.measured || !spot) return []
    return [
      {
        room,
        x: room.x_m + spot.east_part * room.width_m,
        y: room.y_m + spot.south_part * room.depth_m,
        text: speed(row.measured.down_mbps.median),
        madeUp: row.made_up,
      },
    ]
  })
})

const row = (room: DrawnRoom) => light.value?.ledger.find((own) => own.room_id === room.room_id)
const dead = (room: DrawnRoom) => light.value?.map.dead_zones.find((own) => own.room_id === room.room_id)
const labelColour = (room: DrawnRoom) => textOn(row(room)?.predicted.step ?? 'nothing')

/** Where a pointer is on the level, in metres. */
function metres(event: { clientX: number; clientY: number }): { x: number; y: number } | undefined {
  const matrix = ground.value?.getScreenCTM()
  if (!matrix) return undefined
  const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  return { x: Math.round(x * 100) / 100, y: Math.round(y * 100) / 100 }
}

/** The place for a device: where the pointer is over the map, or the middle of the chosen or first room. */
function positionAt(pointer: { clientX: number; clientY: number } | undefined): Position | undefined {
  const level_id = bench.levelId
  if (!level_id) return undefined
  if (pointer) {
    const box = svg.value?.getBoundingClientRect()
    const at = metres(pointer)
    const inside =
      box &&
      pointer.clientX >= box.left &&
      pointer.clientX <= box.right &&
      pointer.clientY >= box.top &&
      pointer.clientY <= box.bottom
    return inside && at ? { level_id, x_m: at.x, y_m: at.y, height_m: 1 } : undefined
  }
  const room = rooms.value.find((own) => own.room_id === bench.roomId) ?? rooms.value[0]
  if (!room) return undefined
  return { level_id, x_m: room.x_m + room.width_m / 2, y_m: room.y_m + room.depth_m / 2, height_m: 1 }
}
defineExpose({ positionAt })

let pressed: string | undefined
let dragged: { device: Device; dx: number; dy: number } | undefined

function grab(event: PointerEvent, device: Device) {
  // Choosing it opens its settings, and nothing may move under a pressed pointer: that waits for the release.
  pressed = device.id
  const at = metres(event)
  if (!at || !here(device)) return
  dragged = { device, dx: placeOf(device).x_m - at.x, dy: placeOf(device).y_m - at.y }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  hover.value = undefined
}

function drag(event: PointerEvent) {
  const at = dragged && metres(event)
  if (!dragged || !at) return
  const { device, dx, dy } = dragged
  bench.moved = { device: device.id, at: { ...placeOf(device), x_m: at.x + dx, y_m: at.y + dy } }
}

function release() {
  dragged = undefined
  if (bench.moved) emit('drop')
  if (pressed) bench.deviceId = pressed
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
    bench.deviceId = device.id
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
  const by = event.shiftKey ? 1 : 0.1
  const [right, down] = step
  const [east, south] = sheet.turned.value ? [-down, right] : [right, down]
  const at = placeOf(device)
  const round = (value: number) => Math.round(value * 100) / 100
  bench.deviceId = device.id
  emit('nudge', { ...at, x_m: round(at.x_m + east * by), y_m: round(at.y_m + south * by) }, device.id)
}

const hover = shallowRef<{ left: number; top: number; answer: ChainView }>()
const ask = useLatest(async (event: { clientX: number; clientY: number; left: number; top: number }) => {
  const at = metres(event)
  if (!at || !bench.levelId || dragged) return
  try {
    const found = await answer(
      api.POST('/api/homes/{home}/setups/{setup}/chain', {
        params: { path: { home: home.id, setup: props.setup.id } },
        body: { ask: bench.ask, level_id: bench.levelId, x_m: at.x, y_m: at.y, moved: null },
      }),
    )
    hover.value = over && found.room_id ? { left: event.left, top: event.top, answer: found } : undefined
  } catch {
    hover.value = undefined
  }
})
let over = false

function point(event: PointerEvent) {
  if (dragged) return
  over = true
  const box = svg.value?.getBoundingClientRect()
  if (!box) return
  ask({
    clientX: event.clientX,
    clientY: event.clientY,
    left: event.clientX - box.left,
    top: event.clientY - box.top,
  })
}

function leave() {
  over = false
  hover.value = undefined
}

function choose(room: DrawnRoom) {
  bench.roomId = room.room_id
  bench.deviceId = undefined
}

const limit = (answer: ChainView) =>
  answer.chain && answer.chain.limiting != null ? answer.chain.links[answer.chain.limiting]?.label : undefined
const nameOf = (id: string) => props.setup.devices.find((device) => device.id === id)?.name ?? ''
const shown = (value: number) => length(value, props.view.home.units)
</script>

<template>
  <div class="map">
    <svg
      ref="svg"
      :viewBox="sheet.viewBox.value"
      role="group"
      aria-label="Map of what works where on this level"
      @pointermove="point"
      @pointerleave="leave"
    >
      <g ref="ground" :transform="sheet.transform.value">
        <clipPath id="rooms">
          <path v-for="room in rooms" :key="room.room_id" :d="roomPath(room)" />
        </clipPath>
        <path v-for="room in rooms" :key="room.room_id" :d="roomPath(room)" class="dark" />
        <g clip-path="url(#rooms)" class="bands">
          <path
            v-for="band in bands"
            :key="band.step"
            :d="band.d"
            :style="{ fill: stepColour[band.step] }"
            fill-rule="evenodd"
          />
          <path v-if="deadOutline" :d="deadOutline" class="dead" />
        </g>
        <path
          v-for="room in rooms"
          :key="room.room_id"
          :d="roomPath(room)"
          class="room"
          :class="{ outdoors: room.outdoors, chosen: room.room_id === bench.roomId }"
          @click="choose(room)"
        />
        <line
          v-for="(wall, index) in walls"
          :key="index"
          :x1="wall.x1_m"
          :y1="wall.y1_m"
          :x2="wall.x2_m"
          :y2="wall.y2_m"
          class="wall"
          :class="{ envelope: wall.envelope }"
        />
        <g
          v-for="room in rooms"
          :key="room.room_id"
          :transform="
            sheet.turned.value
              ? sheet.upright(room.x_m + room.width_m, room.y_m)
              : sheet.upright(room.x_m, room.y_m)
          "
          :style="{ fill: labelColour(room) }"
          class="label"
        >
          <text :x="sheet.px(6)" :y="sheet.px(16)" :font-size="sheet.fit(room, room.name, 12.5)">
            {{ room.name }}
          </text>
          <text v-if="dead(room)" :x="sheet.px(6)" :y="sheet.px(31)" :font-size="sheet.px(11)">
            not met in
          </text>
          <text v-if="dead(room)" :x="sheet.px(6)" :y="sheet.px(44)" :font-size="sheet.px(11)">
            {{ area(dead(room)?.area_m2 ?? 0, view.home.units) }}
          </text>
        </g>
        <g v-for="{ hop, line, width } in hops" :key="hop.device" class="hop">
          <path
            :d="line"
            class="halo"
            :style="{ strokeWidth: `${hop.by === 'coax' ? width + 6 : width + 3}px` }"
          />
          <path
            :d="line"
            :class="[hop.by, { broken: hop.down_mbps == null }]"
            :style="{ strokeWidth: `${hop.by === 'coax' ? width + 3 : width}px` }"
          />
          <path v-if="hop.by === 'coax'" :d="line" class="gap" :style="{ strokeWidth: `${width}px` }" />
        </g>
        <g v-for="pin in pins" :key="pin.room.room_id" :transform="sheet.upright(pin.x, pin.y)" class="pin">
          <rect
            :x="sheet.px(-16)"
            :y="sheet.px(-9)"
            :width="sheet.px(32)"
            :height="sheet.px(18)"
            :class="{ madeup: pin.madeUp }"
          />
          <text :font-size="sheet.px(11)" :y="sheet.px(4)" text-anchor="middle">{{ pin.text }}</text>
        </g>
        <g
          v-for="{ hop, x, y } in hops"
          :key="`name ${hop.device}`"
          :transform="sheet.upright(x, y)"
          class="hop-name"
        >
          <text :font-size="sheet.px(11.5)" text-anchor="start" :x="sheet.px(9)" :y="sheet.px(12)">
            {{ hop.down_mbps == null ? 'no link' : `${speed(hop.down_mbps)} Mb/s` }}
          </text>
        </g>
        <g
          v-for="device in setup.devices"
          :key="device.id"
          :transform="sheet.upright(placeOf(device).x_m, placeOf(device).y_m)"
          class="device"
          :class="{ movable: here(device) }"
          role="button"
          tabindex="0"
          :data-device="device.name"
          :aria-label="`${device.name} on ${levelName(placeOf(device).level_id)}, ${shown(placeOf(device).x_m)} east, ${shown(placeOf(device).y_m)} south; arrows move it`"
          :aria-pressed="device.id === bench.deviceId"
          @pointerdown="grab($event, device)"
          @pointermove.stop="drag"
          @pointerup="release"
          @pointercancel="release"
          @keydown="key($event, device)"
        >
          <DeviceShape
            :mode="device.mode"
            :size="sheet.px(26)"
            :elsewhere="!here(device)"
            :chosen="device.id === bench.deviceId"
          />
        </g>
        <g
          v-for="device in setup.devices"
          :key="`letter ${device.id}`"
          :transform="sheet.upright(placeOf(device).x_m, placeOf(device).y_m)"
          class="device-text"
          aria-hidden="true"
        >
          <text :font-size="sheet.px(12.5)" :y="sheet.px(4.6)" text-anchor="middle">
            {{ letter(device) }}
          </text>
          <text
            v-if="!here(device)"
            :y="sheet.px(25)"
            :font-size="sheet.px(10.5)"
            text-anchor="middle"
            class="away"
          >
            on {{ levelName(placeOf(device).level_id) }}
          </text>
        </g>
      </g>
    </svg>
    <div class="north"><NorthMark :turned="sheet.turned.value" /></div>
    <div
      v-if="hover"
      class="hover"
      :style="{ left: `${hover.left + 14}px`, top: `${hover.top + 14}px` }"
      aria-hidden="true"
    >
      <template v-if="hover.answer.prediction.served">
        <b>{{ speed(hover.answer.prediction.down.middle) }}</b> down,
        <b>{{ speed(hover.answer.prediction.up.middle) }}</b> up Mb/s<br />
        {{ hover.answer.prediction.latency_ms.toFixed(0) }} ms,
        {{ hover.answer.prediction.served.signal_dbm.toFixed(0) }} dBm at
        {{ hover.answer.prediction.served.band }} GHz from {{ nameOf(hover.answer.prediction.served.device)
        }}<br />
        limited by the {{ limit(hover.answer) }}
      </template>
      <template v-else-if="hover.answer.prediction.plugged_into">
        <b>{{ speed(hover.answer.prediction.down.middle) }}</b> down,
        <b>{{ speed(hover.answer.prediction.up.middle) }}</b> up Mb/s<br />
        by cable from {{ nameOf(hover.answer.prediction.plugged_into) }}<br />
        limited by the {{ limit(hover.answer) }}
      </template>
      <template v-else>nothing holds here</template>
    </div>
    <ol class="legend" aria-label="Steps of service">
      <li v-for="step in catalogue?.steps" :key="step.step">
        <i :style="{ background: stepColour[step.step] }" />
        {{ step.name }}
        <small v-if="step.down_mbps">{{ speed(step.down_mbps) }}/{{ speed(step.up_mbps) }}</small>
      </li>
      <li v-if="pins.some((pin) => pin.madeUp)"><i class="madeup" />made-up readings</li>
    </ol>
  </div>
</template>

<style scoped>
.map {
  background: var(--night);
  position: relative;
  flex: 1;
  min-height: 300px;
  display: flex;
  flex-direction: column;
}

svg {
  flex: 1;
  min-height: 0;
  height: 0;
  width: 100%;
  touch-action: none;
}

.dark {
  fill: var(--night);
}

.bands path {
  stroke: rgb(20 27 46 / 35%);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
}

.bands .dead {
  fill: none;
  stroke: #fff;
  stroke-width: 2.5px;
  stroke-dasharray: 6 5;
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

.label,
.pin,
.hop,
.hop-name {
  pointer-events: none;
}

.hop path {
  fill: none;
  stroke: var(--night);
  stroke-linecap: round;
  vector-effect: non-scaling-stroke;
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

.hop-name text {
  fill: var(--night);
  stroke: #fff;
  stroke-width: 3px;
  paint-order: stroke;
  vector-effect: non-scaling-stroke;
  font-weight: 600;
}

.pin rect {
  fill: #fff;
  stroke: var(--night);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
}

.pin .madeup {
  stroke-dasharray: 2 2;
}

.pin text {
  fill: var(--night);
}

.device {
  cursor: pointer;
  outline: none;
}

.device:focus-visible :deep(path) {
  stroke: #1f5fa8;
  stroke-width: 4px;
}

.device.movable {
  cursor: grab;
}

.device-text {
  pointer-events: none;
  fill: var(--night);
  font-weight: 700;
}

.device-text .away {
  font-weight: 400;
  fill: #fff;
  stroke: var(--night);
  stroke-width: 3px;
  paint-order: stroke;
  vector-effect: non-scaling-stroke;
}

.north {
  position: absolute;
  right: 10px;
  top: 6px;
  color: var(--paper);
}

.hover {
  position: absolute;
  background: var(--night);
  color: var(--paper);
  border: 1px solid #5a6079;
  padding: 5px 9px;
  font-size: 0.78rem;
  pointer-events: none;
  max-width: 270px;
  z-index: 2;
}

.legend {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  padding: 4px 12px 8px;
  color: var(--paper);
  font-size: 0.75rem;
}

.legend i {
  display: inline-block;
  width: 16px;
  height: 10px;
  border: 1px solid #5a6079;
  margin-right: 3px;
}

.legend .madeup {
  background: #fff;
  border: 1px dashed var(--night);
}

.legend small {
  opacity: 0.75;
}
</style>

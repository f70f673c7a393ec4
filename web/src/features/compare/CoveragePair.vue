<script setup lang="ts">
import { computed, reactive, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { ComparedSetup, CoverageView, Layer } from '../../api/types'
import { ringPath } from '../../shared/ringPath'
import { roomPath } from '../../shared/roomPath'
import { useBench, useHome } from '../bench'

/** The lamplight maps of setups side by side with one cursor, and their difference to the reference. */
const props = defineProps<{ columns: ComparedSetup[]; reference: string }>()

const home = useHome()
const bench = useBench()
interface Lit {
  id: string
  title: string
  light: CoverageView
}
const maps = shallowRef<Lit[]>([])
const cursor = reactive({ x: 0, y: 0, on: false })

const wanted = computed(() =>
  props.columns.slice(0, 4).flatMap((own) => {
    const works = { id: own.setup_id, title: `${own.letter} ${own.name}`, layer: { kind: 'works' } as Layer }
    const difference = {
      id: own.setup_id,
      title: `${own.letter} against the reference`,
      layer: { kind: 'difference', setup_id: props.reference } as Layer,
    }
    return own.setup_id === props.reference ? [works] : [works, difference]
  }),
)
watch(
  () => [wanted.value, bench.ask, home.view.value],
  async () => {
    try {
      maps.value = await Promise.all(
        wanted.value.map(async ({ id, title, layer }) => ({
          id: `${id} ${layer.kind}`,
          title,
          light: await answer(
            api.POST('/api/homes/{home}/setups/{setup}/coverage', {
              params: { path: { home: home.id, setup: id } },
              body: { ask: bench.ask, layer, moved: null },
            }),
          ),
        })),
      )
    } catch (error) {
      home.fail(error)
    }
  },
  { immediate: true },
)

/** Metres between storeys that stand beside one another. */
const GAP = 1
/** Storeys beside one another in one scale, the lowest first. */
const house = computed(() => {
  const rooms = home.view.value?.drawing.rooms ?? []
  let east = 0
  let depth = 0
  const levels = (home.view.value?.home.house.levels ?? []).flatMap((level) => {
    const here = rooms.filter((room) => room.level_id === level.id)
    if (here.length === 0) return []
    const parts = here.flatMap((room) => room.parts)
    const [x0, y0] = [Math.min(...parts.map((p) => p.x_m)), Math.min(...parts.map((p) => p.y_m))]
    const width = Math.max(...parts.map((p) => p.x_m + p.width_m)) - x0
    const at = { x: east - x0, y: -y0 }
    east += width + GAP
    depth = Math.max(depth, Math.max(...parts.map((p) => p.y_m + p.depth_m)) - y0)
    return [{ id: level.id, name: level.name, rooms: here, at }]
  })
  return { levels, width: Math.max(1, east - GAP), depth: Math.max(1, depth) }
})

function move(event: PointerEvent) {
  const matrix = (event.currentTarget as SVGSVGElement).getScreenCTM()
  if (!matrix) return
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  Object.assign(cursor, { x: at.x, y: at.y, on: true })
}
</script>

<template>
  <div class="pair">
    <figure v-for="map in maps" :key="map.id">
      <figcaption class="small">
        <b>{{ map.title }}</b>
      </figcaption>
      <svg
        :viewBox="`-0.3 -0.3 ${house.width + 0.6} ${house.depth + 0.6}`"
        role="img"
        :aria-label="map.title"
        @pointermove="move"
        @pointerleave="cursor.on = false"
      >
        <g
          v-for="level in house.levels"
          :key="level.id"
          :transform="`translate(${level.at.x} ${level.at.y})`"
        >
          <title>{{ level.name }}</title>
          <clipPath :id="`pair ${map.id} ${level.id}`">
            <path :d="level.rooms.map((room) => roomPath(room)).join(' ')" />
          </clipPath>
          <g :clip-path="`url('#pair ${map.id} ${level.id}')`">
            <path :d="level.rooms.map((room) => roomPath(room)).join(' ')" class="night" />
            <path
              v-for="(band, index) in map.light.levels.find((own) => own.level_id === level.id)?.shaded ?? []"
              :key="index"
              :d="ringPath(band.polygons)"
              :style="{ fill: map.light.shades[band.shade]?.colour }"
              fill-rule="evenodd"
            />
          </g>
          <path v-for="room in level.rooms" :key="room.room_id" :d="roomPath(room)" class="room" />
        </g>
        <g v-if="cursor.on" class="cursor">
          <line :x1="cursor.x - 0.7" :x2="cursor.x + 0.7" :y1="cursor.y" :y2="cursor.y" />
          <line :x1="cursor.x" :x2="cursor.x" :y1="cursor.y - 0.7" :y2="cursor.y + 0.7" />
        </g>
      </svg>
      <ul class="small">
        <li v-for="shade in map.light.shades" :key="shade.name">
          <span :style="{ background: shade.colour }" />{{ shade.name }}
        </li>
      </ul>
    </figure>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 14px;
}

figure {
  background: var(--night);
  color: var(--cream);
  padding: 10px;
  display: grid;
  gap: 6px;
  align-content: start;
}

svg {
  width: 100%;
  max-height: 300px;
  display: block;
}

.night {
  fill: #0a0f1e;
}

.room {
  fill: none;
  stroke: #060a15;
  stroke-width: 2px;
  vector-effect: non-scaling-stroke;
}

.cursor line {
  stroke: #fff;
  stroke-width: 1.6px;
  vector-effect: non-scaling-stroke;
}

ul {
  list-style: none;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  font-size: 0.72rem;
}

li span {
  display: inline-block;
  width: 12px;
  height: 9px;
  margin-right: 4px;
  border: 1px solid #55597a;
}
</style>

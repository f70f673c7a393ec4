<script setup lang="ts">
import type { ComparedSetup, ComparedSpot } from '../../api/types'

/** A line a spot from setup to setup: one look tells which setup wins where. */
const props = defineProps<{
  columns: ComparedSetup[]
  rows: ComparedSpot[]
  place: (value: number) => number
  chosen?: string
  /** Whether more is better, so that the best is on top either way. */
  up: boolean
}>()
defineEmits<{ choose: [room: string] }>()

const [W, H] = [300, 200]
const x = (index: number) => 16 + (index * (W - 32)) / Math.max(1, props.columns.length - 1)
const y = (value: number) => 8 + (props.up ? 1 - props.place(value) : props.place(value)) * (H - 30)
const of = (row: ComparedSpot) =>
  row.cells.map((cell, index) => ({
    x: x(index),
    y: y(cell.shown ?? cell.predicted[1]!),
    measured: cell.shown != null,
  }))
const name = (row: ComparedSpot) => row.name + (row.spot_name ? `, ${row.spot_name}` : '')
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${H}`" role="img" aria-label="Each room from setup to setup">
    <g v-for="(column, index) in columns" :key="column.round_id ?? column.setup_id">
      <line :x1="x(index)" :x2="x(index)" y1="4" :y2="H - 18" class="post" />
      <text :x="x(index)" :y="H - 4" text-anchor="middle" class="letter">{{ column.letter }}</text>
    </g>
    <g
      v-for="row in rows"
      :key="row.spot_id"
      :class="{ chosen: row.room_id === chosen }"
      class="slope"
      @click="$emit('choose', row.room_id)"
    >
      <title>{{ name(row) }}</title>
      <polyline
        :points="
          of(row)
            .map((own) => `${own.x},${own.y}`)
            .join(' ')
        "
        class="wide"
      />
      <polyline
        :points="
          of(row)
            .map((own) => `${own.x},${own.y}`)
            .join(' ')
        "
      />
      <template v-for="(own, index) in of(row)" :key="index">
        <circle :cx="own.x" :cy="own.y" r="2.6" :class="{ predicted: !own.measured }" />
      </template>
      <text v-if="row.room_id === chosen" :x="x(0) + 6" :y="of(row)[0]!.y - 5">{{ name(row) }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
}

.post {
  stroke: var(--line);
}

.slope {
  cursor: pointer;
}

polyline {
  fill: none;
  stroke: rgb(32 38 46 / 40%);
  stroke-width: 1.4;
}

.wide {
  stroke: transparent;
  stroke-width: 9;
}

circle {
  fill: var(--ink);
}

circle.predicted {
  fill: var(--paper);
  stroke: var(--ink);
}

.chosen polyline:not(.wide) {
  stroke: var(--comb);
  stroke-width: 2.4;
}

.chosen circle {
  stroke: var(--comb);
}

text {
  font-size: 10.5px;
  fill: var(--comb);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 3px;
}

.letter {
  fill: var(--ink);
  font-weight: 700;
}
</style>

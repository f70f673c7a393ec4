<script setup lang="ts">
import { computed } from 'vue'

import type { DropOut, LengthUnit, MarkRow } from '../api/types'
import { farAway, sentence, speed } from './words'

const props = defineProps<{ marks: MarkRow[]; dropOut?: DropOut | null; units: LengthUnit }>()

const WIDTH = 340
const HEIGHT = 150
const LEFT = 44
const BOTTOM = 26

const points = computed(() =>
  props.marks.flatMap((row) =>
    row.mark.distance_m == null || !row.summary
      ? []
      : [{ far: row.mark.distance_m, down: row.summary.down_mbps.median, back: row.mark.returning ?? false }],
  ),
)
const farthest = computed(() => Math.max(...points.value.map((own) => own.far), 1))
const fastest = computed(() => Math.max(...points.value.map((own) => own.down), 1))
const x = (far: number) => LEFT + (far / farthest.value) * (WIDTH - LEFT - 12)
const y = (down: number) => 12 + (1 - down / fastest.value) * (HEIGHT - BOTTOM - 12)
const way = (back: boolean) =>
  points.value
    .filter((own) => own.back === back)
    .map((own) => `${x(own.far)},${y(own.down)}`)
    .join(' ')
const words = computed(() => {
  const { held_m, lost_m, back_m } = props.dropOut ?? {}
  const parts = [
    held_m == null ? '' : `holds to ${farAway(held_m, props.units)}`,
    lost_m == null ? '' : `lost at ${farAway(lost_m, props.units)}`,
    back_m == null ? '' : `back at ${farAway(back_m, props.units)}`,
  ]
  return parts.filter(Boolean).join(', ')
})
</script>

<template>
  <figure v-if="points.length">
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="`Speed over distance; ${words}`">
      <line :x1="LEFT" :x2="WIDTH - 12" :y1="HEIGHT - BOTTOM" :y2="HEIGHT - BOTTOM" />
      <line :x1="LEFT" :x2="LEFT" y1="8" :y2="HEIGHT - BOTTOM" />
      <line
        v-if="dropOut?.lost_m != null"
        class="lost"
        :x1="x(dropOut.lost_m)"
        :x2="x(dropOut.lost_m)"
        y1="8"
        :y2="HEIGHT - BOTTOM"
      />
      <polyline :points="way(false)" />
      <polyline :points="way(true)" class="back" />
      <circle
        v-for="(own, index) in points"
        :key="index"
        :cx="x(own.far)"
        :cy="y(own.down)"
        r="3.5"
        :class="{ back: own.back, none: own.down === 0 }"
      />
      <text :x="LEFT - 5" y="18" text-anchor="end">{{ speed(fastest) }}</text>
      <text :x="LEFT - 5" :y="HEIGHT - BOTTOM + 4" text-anchor="end">0</text>
      <text :x="LEFT" :y="HEIGHT - 8">0</text>
      <text :x="WIDTH - 12" :y="HEIGHT - 8" text-anchor="end">{{ farAway(farthest, units) }}</text>
    </svg>
    <figcaption class="small quiet">
      Median down in Mb/s over distance; way out drawn through, way back dashed.
      <b v-if="words">{{ sentence(words) }}</b>
    </figcaption>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 520px;
  background: #fff;
  border: 1px solid var(--line);
}

line {
  stroke: var(--ink);
}

.lost {
  stroke: var(--comb);
  stroke-dasharray: 2 4;
}

polyline {
  fill: none;
  stroke: var(--plum);
  stroke-width: 2;
}

.back {
  stroke-dasharray: 5 4;
}

circle {
  fill: var(--plum);
}

circle.back {
  fill: #fff;
  stroke: var(--plum);
  stroke-dasharray: none;
}

circle.none {
  fill: var(--comb);
}

text {
  font-size: 11px;
  fill: var(--ink);
}
</style>

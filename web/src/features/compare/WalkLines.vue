<script setup lang="ts">
import { computed } from 'vue'

import type { LengthUnit, Walks } from '../../api/types'
import { farAway } from '../../shared/words'

/** Walks of several setups over one another, and where one overtakes. */
const props = defineProps<{ walks: Walks; units: LengthUnit }>()

const [W, H, LEFT, BOTTOM] = [560, 190, 46, 30]
const all = computed(() => props.walks.lines.flatMap((own) => own.values.filter((value) => value != null)))
const low = computed(() => (props.walks.by_distance ? 0 : Math.min(...all.value) - 3))
const high = computed(() => Math.max(...all.value) + (props.walks.by_distance ? 0 : 3))
const ends = computed(() => [props.walks.stops[0]?.along ?? 0, props.walks.stops.at(-1)?.along ?? 1] as const)
const x = (along: number) =>
  LEFT + ((along - ends.value[0]) / Math.max(0.1, ends.value[1] - ends.value[0])) * (W - LEFT - 40)
const y = (value: number) =>
  10 + (1 - (value - low.value) / Math.max(0.1, high.value - low.value)) * (H - BOTTOM - 14)
const DASHES = ['none', '7 4', '2 3', '10 3 2 3']
const lines = computed(() =>
  props.walks.lines.map((own, index) => {
    const points = props.walks.stops.flatMap((stop, place) => {
      const value = own.values[place]
      return value == null ? [] : [{ x: x(stop.along), y: y(value) }]
    })
    return { letter: own.letter, points, dash: DASHES[index % DASHES.length], last: points.at(-1) }
  }),
)
const name = (index: number) => {
  const stop = props.walks.stops[index]!
  return props.walks.by_distance ? farAway(stop.along, props.units) : stop.name
}
</script>

<template>
  <figure>
    <figcaption class="small">
      <b>{{ walks.by_distance ? 'Range walks' : 'Route walks' }}</b>,
      {{ walks.by_distance ? 'Mb/s down over distance' : 'strongest signal, dBm, mark by mark' }}.
      {{ walks.told.join(' ') }}
    </figcaption>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="walks.told.join(' ') || 'Walks over one another'">
      <line :x1="LEFT" :x2="W - 40" :y1="H - BOTTOM" :y2="H - BOTTOM" class="axis" />
      <text v-for="value in [low, high]" :key="value" :x="LEFT - 6" :y="y(value) + 4" text-anchor="end">
        {{ Math.round(value) }}
      </text>
      <text
        v-for="(stop, index) in walks.stops"
        :key="stop.name"
        :x="x(stop.along)"
        :y="H - BOTTOM + 16"
        text-anchor="middle"
      >
        {{ name(index) }}
      </text>
      <g v-for="own in lines" :key="own.letter">
        <polyline
          :points="own.points.map((at) => `${at.x},${at.y}`).join(' ')"
          :stroke-dasharray="own.dash"
        />
        <circle v-for="(at, index) in own.points" :key="index" :cx="at.x" :cy="at.y" r="3" />
        <text v-if="own.last" :x="own.last.x + 8" :y="own.last.y + 4" class="letter">{{ own.letter }}</text>
      </g>
    </svg>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 640px;
  display: block;
}

.axis {
  stroke: var(--line);
}

polyline {
  fill: none;
  stroke: var(--plum);
  stroke-width: 2;
}

circle {
  fill: var(--plum);
}

text {
  font-size: 11px;
  fill: var(--quiet);
}

.letter {
  fill: var(--ink);
  font-weight: 700;
}
</style>

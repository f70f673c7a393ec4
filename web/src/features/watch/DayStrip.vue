<script setup lang="ts">
import { computed } from 'vue'

import type { WatchDay } from '../../api/types'
import { seconds } from '../../shared/words'
import { millis } from './words'

/** One address on one day: hours from midnight to midnight, darker where answers took longer, cut where none came. */
const props = defineProps<{
  day: WatchDay
  target: number
  /** The quickest and the slowest hour of all days, drawn lightest and darkest, ms. */
  ends: [number, number]
}>()

const W = 480
const H = 26
const x = (hour: number) => (hour / 24) * W
const own = computed(() => props.day.targets[props.target])
const drops = computed(() => own.value?.drops ?? [])
/** By ratio: twice as long is as much darker at 2 ms as at 200 ms; what differs by less than a half stays light. */
const shade = (ms: number | null | undefined) => {
  const [least, most] = props.ends
  return ms ? Math.log(ms / least) / Math.max(Math.log(1.5), Math.log(most / least)) : 0
}
const spoken = computed(() => {
  const took = own.value?.took
  const away = drops.value.length
    ? `${drops.value.length} drops, ${seconds(own.value?.away_s ?? 0)} in sum`
    : 'no drops'
  return took ? `median ${millis(took.median_ms)} ms, ${away}` : 'no answer'
})
const clock = (h: number) => `${Math.floor(h)}:${String(Math.floor((h % 1) * 60)).padStart(2, '0')}`
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="spoken" preserveAspectRatio="none">
    <rect :width="W" :height="H" class="none" />
    <rect
      v-for="cell in own?.hours ?? []"
      :key="cell.hour"
      :x="x(cell.hour)"
      :width="x(1)"
      y="0"
      :height="H"
      class="hour"
      :style="{ fillOpacity: 0.1 + 0.75 * shade(cell.median_ms) }"
    >
      <title>
        {{ cell.hour }} to {{ cell.hour + 1 }} h: median {{ millis(cell.median_ms) }} ms,
        {{ (cell.lost_part * 100).toFixed(1) }} % unanswered
      </title>
    </rect>
    <rect
      v-for="(hole, index) in day.holes"
      :key="`h${index}`"
      :x="x(hole.from_h)"
      :width="Math.max(1.5, x(hole.to_h - hole.from_h))"
      y="0"
      :height="H"
      class="hole"
    >
      <title>not watched from {{ clock(hole.from_h) }} to {{ clock(hole.to_h) }}</title>
    </rect>
    <rect
      v-for="(drop, index) in drops"
      :key="`d${index}`"
      :x="x(drop.from_h)"
      :width="Math.max(2.5, x(drop.to_h - drop.from_h))"
      y="0"
      :height="H"
      class="drop"
    >
      <title>no answer from {{ clock(drop.from_h) }}, for {{ seconds(drop.length_s) }}</title>
    </rect>
    <path v-for="hour in [6, 12, 18]" :key="hour" :d="`M${x(hour)} 0V${H}`" class="mark" />
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  height: 26px;
  display: block;
}

.none {
  fill: #fff;
  stroke: var(--line);
}

.hour {
  fill: var(--plum);
}

.hole {
  fill: var(--paper);
  stroke: var(--quiet);
  stroke-dasharray: 2 2;
  vector-effect: non-scaling-stroke;
}

.drop {
  fill: var(--comb);
}

.mark {
  stroke: #fff;
  stroke-opacity: 0.7;
  vector-effect: non-scaling-stroke;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { ComparedCell } from '../../api/types'

/** Runs of one spot in one setup on an axis that all cells share: each run, the middle half, the median, and what is needed. */
const props = defineProps<{
  cell: ComparedCell
  need?: number | null
  /** Place of a figure on the axis, 0 to 1. */
  place: (value: number) => number
  label: string
}>()

const W = 84
const at = (value: number) => 4 + props.place(value) * (W - 8)
const figures = computed(() => props.cell.figures)
</script>

<template>
  <svg :viewBox="`0 0 ${W} 24`" class="strip" role="img" :aria-label="label">
    <line x1="4" :x2="W - 4" y1="12" y2="12" class="axis" />
    <line v-if="need != null" :x1="at(need)" :x2="at(need)" y1="2" y2="22" class="need" />
    <line
      v-if="!figures"
      :x1="at(cell.predicted[0]!)"
      :x2="at(cell.predicted[2]!)"
      y1="12"
      y2="12"
      class="predicted"
    />
    <template v-if="figures">
      <line
        v-if="cell.interval"
        :x1="at(cell.interval[0]!)"
        :x2="at(cell.interval[1]!)"
        y1="12"
        y2="12"
        class="interval"
      />
      <rect
        :x="at(figures.lower_quartile)"
        :width="Math.max(1.5, at(figures.upper_quartile) - at(figures.lower_quartile))"
        y="7"
        height="10"
        class="half"
      />
      <circle v-for="(value, index) in cell.values" :key="index" :cx="at(value)" cy="12" r="1.7" />
      <line :x1="at(figures.median)" :x2="at(figures.median)" y1="4" y2="20" class="median" />
    </template>
  </svg>
</template>

<style scoped>
.strip {
  width: 100%;
  height: 24px;
  display: block;
}

.axis {
  stroke: var(--line);
}

.need {
  stroke: var(--leaf);
  stroke-dasharray: 2 2;
  stroke-width: 1.5;
}

.interval {
  stroke: var(--plum);
  stroke-width: 2;
}

.predicted {
  stroke: var(--copper);
  stroke-width: 2;
  stroke-dasharray: 3 3;
}

.half {
  fill: rgb(107 74 99 / 22%);
}

circle {
  fill: var(--plum);
  fill-opacity: 0.7;
}

.median {
  stroke: var(--ink);
  stroke-width: 2;
}
</style>

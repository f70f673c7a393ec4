<script setup lang="ts">
import { computed } from 'vue'

import type { DrawnLesson } from '../../api/types'
import type { Sheet } from '../../shared/useSheet'
import { useBench } from '../bench'

/** What readings taught of the walls of a level, on the drawing: what the table says of each, and what it takes here. */
const props = defineProps<{ lessons: DrawnLesson[]; levelId: string; sheet: Sheet }>()

const bench = useBench()
const walls = computed(() =>
  props.lessons.flatMap((lesson) =>
    lesson.drawn
      .filter((part) => part.level_id === props.levelId)
      // All of a material is tinted; only what is about one wall is written at it.
      .map((part) => ({ part, lesson, written: lesson.about === 'part' ? words(lesson) : '' })),
  ),
)

function words({ by_table_db: table, here_db: here, more_db: more }: DrawnLesson): string {
  if (table != null && here != null) return `${table.toFixed(0)} → ${here.toFixed(0)} dB`
  return `${more > 0 ? '+' : '−'}${Math.abs(more).toFixed(0)} dB together`
}
</script>

<template>
  <g class="learnt" role="group" aria-label="What readings taught of the walls">
    <g
      v-for="({ part, lesson, written }, index) in walls"
      :key="index"
      :class="[lesson.about, { less: lesson.more_db < 0, pointed: bench.pointed === lesson.drawn }]"
    >
      <title>{{ lesson.told }}</title>
      <line :x1="part.x1_m" :y1="part.y1_m" :x2="part.x2_m" :y2="part.y2_m" />
      <text
        v-if="written"
        :transform="sheet.upright((part.x1_m + part.x2_m) / 2, (part.y1_m + part.y2_m) / 2)"
        :font-size="sheet.px(12)"
        :y="sheet.px(4)"
        text-anchor="middle"
      >
        {{ written }}
      </text>
    </g>
  </g>
</template>

<style scoped>
line {
  stroke: var(--plum);
  stroke-width: calc(var(--px) * 7);
  stroke-opacity: 0.75;
}

.less line {
  stroke-dasharray: calc(var(--px) * 9) calc(var(--px) * 4);
}

.material line {
  stroke-opacity: 0.3;
}

.pointed line {
  stroke: var(--comb);
  stroke-opacity: 1;
}

text {
  fill: var(--ink);
  stroke: #fff;
  stroke-width: calc(var(--px) * 8);
  paint-order: stroke;
  font-weight: 600;
  pointer-events: none;
}
</style>

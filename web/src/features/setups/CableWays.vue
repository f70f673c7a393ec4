<script setup lang="ts">
import { computed } from 'vue'

import type { CableRun } from '../../api/types'
import type { Stage } from './useStage'

/** The ways of cables along walls, through doors and up the stairs, with the places that must be drilled. */
const props = defineProps<{ ways: CableRun[]; stage: Stage }>()

const drawn = computed(() =>
  props.ways.flatMap((run) => {
    if (!run.route) return []
    const lines = run.route.stretches.map((stretch) =>
      stretch.points
        .flatMap((corner) => props.stage.px({ level_id: stretch.level_id, ...corner }) ?? [])
        .map((at, index) => `${index === 0 ? 'M' : 'L'}${at.x} ${at.y}`)
        .join(''),
    )
    const holes = run.route.holes.flatMap((hole) => {
      const at = props.stage.px(hole)
      return at ? [{ ...at, what: hole.what }] : []
    })
    return [{ id: run.device_id, d: lines.join(''), loose: run.loose, holes }]
  }),
)
</script>

<template>
  <g class="ways" aria-hidden="true">
    <template v-for="way in drawn" :key="way.id">
      <path :d="way.d" class="under" />
      <path :d="way.d" :class="{ loose: way.loose }" />
      <g v-for="(hole, index) in way.holes" :key="index" class="hole">
        <title>{{ hole.what }}</title>
        <circle :cx="hole.x" :cy="hole.y" r="5" />
        <path :d="`M${hole.x - 7} ${hole.y}h14M${hole.x} ${hole.y - 7}v14`" />
      </g>
    </template>
  </g>
</template>

<style scoped>
.ways path {
  fill: none;
  stroke: var(--comb);
  stroke-width: 2px;
  stroke-linejoin: round;
  pointer-events: none;
}

.ways .under {
  stroke: rgb(255 250 236 / 85%);
  stroke-width: 5px;
}

.ways .loose {
  stroke-dasharray: 7 4;
}

.hole circle {
  fill: var(--paper);
  stroke: var(--comb);
  stroke-width: 2px;
}

.hole path {
  stroke-width: 1.5px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { CoverageLevel, Shade } from '../../api/types'
import { ringPath } from '../../shared/ringPath'

/** The light on one level: shades over one another, fine lines, and where a need is not met. */
const props = defineProps<{ lit: CoverageLevel; shades: Shade[]; scale: number; fine: boolean }>()

const bands = computed(() => props.lit.shaded.map((own) => ({ shade: own.shade, d: ringPath(own.polygons) })))
const lines = computed(() =>
  props.fine ? props.lit.fine_lines.map((own) => ({ whole: own.whole_plan, d: ringPath(own.outlines) })) : [],
)
const dead = computed(() => ringPath(props.lit.dead_outlines))
</script>

<template>
  <g :clip-path="`url(#rooms-${lit.level_id})`" class="bands">
    <template v-for="band in bands" :key="band.shade">
      <path :d="band.d" :style="{ fill: shades[band.shade]?.colour }" fill-rule="evenodd" />
      <path
        v-if="shades[band.shade]?.hatch"
        :d="band.d"
        :fill="`url(#hatch-${shades[band.shade]!.hatch})`"
        fill-rule="evenodd"
        class="hatched"
      />
    </template>
    <path
      v-for="(line, index) in lines"
      :key="index"
      :d="line.d"
      class="fine"
      :class="{ whole: line.whole }"
    />
    <path v-if="dead" :d="dead" class="dead" />
  </g>
</template>

<style scoped>
.bands {
  pointer-events: none;
}

.bands path {
  stroke: rgb(20 27 46 / 35%);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
}

.bands .hatched {
  stroke: none;
}

.bands .fine {
  fill: none;
  stroke: rgb(20 27 46 / 45%);
  stroke-width: 0.8px;
  stroke-dasharray: 1 3;
}

.bands .whole {
  stroke: rgb(20 27 46 / 85%);
  stroke-width: 1.6px;
  stroke-dasharray: 9 3 2 3;
}

.bands .dead {
  fill: none;
  stroke: #fff;
  stroke-width: 2.5px;
  stroke-dasharray: 6 5;
}
</style>

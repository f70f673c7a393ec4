<script setup lang="ts">
import type { Mode } from '../../api/types'

defineProps<{ mode: Mode; size: number; chosen?: boolean }>()

/** Our own shapes by role, drawn in a square from -1 to 1. */
const outline: Record<Mode, string> = {
  router: 'M-0.9-0.9H0.9V0.9H-0.9Z',
  mesh_node: 'M-1 0.75A1 1.5 0 0 1 1 0.75Z',
  access_point: 'M-1-0.75H1L0.5 0.85H-0.5Z',
  repeater: 'M0-1L1 0L0 1L-1 0Z',
  switch: 'M-1-0.45H1V0.45H-1Z',
}
</script>

<template>
  <g :transform="`scale(${size / 2})`" :class="{ chosen }">
    <path :d="outline[mode]" vector-effect="non-scaling-stroke" />
  </g>
</template>

<style scoped>
path {
  fill: #fff;
  stroke: var(--night);
  stroke-width: 2.5px;
}

.chosen path {
  stroke: var(--comb);
  stroke-width: 3.5px;
}
</style>

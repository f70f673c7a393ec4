<script setup lang="ts">
import { computed } from 'vue'

import type { HandOverWalk, Setup } from '../../api/types'
import type { Stage } from './useStage'

/** A walk on the map: thin where the phone is handed over as it should, thick where too late, broken where too soon. */
const props = defineProps<{ walk: HandOverWalk; setup: Setup; stage: Stage }>()

const lines = computed(() =>
  props.walk.stretches.map((stretch) => ({
    how: stretch.how,
    d: stretch.points
      .flatMap((corner) => props.stage.px({ level_id: stretch.level_id, ...corner }) ?? [])
      .map((at, index) => `${index === 0 ? 'M' : 'L'}${at.x} ${at.y}`)
      .join(''),
  })),
)
const changes = computed(() =>
  props.walk.changes.flatMap((own) => {
    const at = props.stage.px(own)
    const to = props.setup.devices.find((device) => device.id === own.to)
    return at && to ? [{ ...at, letter: to.name.slice(0, 1), name: to.name }] : []
  }),
)
</script>

<template>
  <g class="walk" aria-hidden="true">
    <path v-for="(own, index) in lines" :key="`under ${index}`" :d="own.d" class="under" />
    <path v-for="(own, index) in lines" :key="index" :d="own.d" :class="own.how" />
    <g v-for="(own, index) in changes" :key="`change ${index}`" class="change">
      <title>handed over to {{ own.name }}</title>
      <path :d="`M${own.x - 9} ${own.y}l9 -9 9 9 -9 9z`" />
      <text :x="own.x" :y="own.y + 4">{{ own.letter }}</text>
    </g>
  </g>
</template>

<style scoped>
path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2px;
  stroke-linejoin: round;
  pointer-events: none;
}

.under {
  stroke: rgb(255 250 236 / 85%);
  stroke-width: 6px;
}

.too_sticky {
  stroke: var(--comb);
  stroke-width: 5px;
}

.too_eager {
  stroke: var(--comb);
  stroke-width: 5px;
  stroke-dasharray: 3 4;
}

.change path {
  fill: var(--paper);
  stroke-width: 1.5px;
}

.change text {
  font-size: 11px;
  font-weight: 700;
  text-anchor: middle;
}
</style>

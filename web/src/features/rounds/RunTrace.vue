<script setup lang="ts">
import { computed } from 'vue'

import type { Run } from '../../api/types'
import { speed } from '../../shared/words'

const props = defineProps<{ run: Run; most: number; number: number; outlier?: boolean }>()

const measured = computed(() => (props.run.outcome.kind === 'measured' ? props.run.outcome : undefined))
const line = computed(() => {
  const trace = props.run.trace_mbps
  const step = 24 / Math.max(trace.length - 1, 1)
  return trace
    .map((value, index) => `${index * step},${22 - (value / Math.max(props.most, 1)) * 20}`)
    .join(' ')
})
const words = computed(() => {
  const what = measured.value ? `${speed(measured.value.down_mbps)} Mb/s down` : 'no connection'
  const counts = props.run.void ? `, does not count: ${props.run.void}` : ''
  const other = props.run.carried_by === 'home_wifi' ? '' : ', carried by another network: does not count'
  const off = props.outlier ? ', far off the others: look at it' : ''
  return `Run ${props.number}: ${what}${off}${counts}${other}`
})
</script>

<template>
  <svg
    viewBox="0 0 24 24"
    :class="{ void: run.void || run.carried_by !== 'home_wifi', lost: !measured, outlier }"
    role="img"
    :aria-label="words"
  >
    <title>{{ words }}</title>
    <polyline v-if="line" :points="line" />
    <text v-else x="12" y="15.5" text-anchor="middle">{{ measured ? speed(measured.down_mbps) : '×' }}</text>
  </svg>
</template>

<style scoped>
svg {
  width: 26px;
  height: 26px;
  background: #f1e9d6;
  border: 1px solid var(--line);
}

polyline {
  fill: none;
  stroke: var(--plum);
  stroke-width: 1.6;
}

text {
  font-size: 9px;
  fill: var(--ink);
}

.lost text {
  font-size: 16px;
  fill: var(--comb);
}

.void {
  opacity: 0.4;
  border-style: dashed;
}
.outlier {
  border: 2px solid var(--yolk);
}
</style>

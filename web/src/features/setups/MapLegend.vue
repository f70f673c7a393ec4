<script setup lang="ts">
import { computed } from 'vue'

import type { CoverageView, LedgerRow } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'

/** What each shade of the map stands for, and what it goes by; steps only as far as the home reaches. */
const props = defineProps<{
  light: CoverageView | undefined
  readings: LedgerRow[] | undefined
  madeUp: boolean
}>()
const catalogue = useCatalogue()
const place = (row: LedgerRow) =>
  catalogue.value?.steps.findIndex((own) => own.step === row.measured_step) ?? -1

const shades = computed(() => {
  const light = props.light
  if (!light) return []
  const shown = props.readings
    ? props.readings.map(place)
    : light.levels.flatMap((level) => level.shaded.map((own) => own.shade))
  const reached = Math.max(0, ...shown)
  return light.layer.kind === 'works' ? light.shades.slice(0, reached + 1) : light.shades
})
const hatches: Record<string, string> = {
  rising: 'repeating-linear-gradient(135deg, #141b2e88 0 1px, transparent 1px 5px)',
  falling: 'repeating-linear-gradient(45deg, #141b2e88 0 1px, transparent 1px 5px)',
  crossed:
    'repeating-linear-gradient(45deg, #141b2e88 0 1px, transparent 1px 5px), repeating-linear-gradient(135deg, #141b2e88 0 1px, transparent 1px 5px)',
}
const look = (own: CoverageView['shades'][number]) => ({
  backgroundColor: own.colour,
  backgroundImage: own.hatch ? hatches[own.hatch] : 'none',
})
</script>

<template>
  <ol class="legend" aria-label="What the shades stand for">
    <li v-for="own in shades" :key="`${own.name} ${own.figure}`">
      <i :style="look(own)" />
      <span>{{ own.name }}</span>
      <small v-if="own.figure">{{ own.figure }}</small>
    </li>
    <li v-if="light" class="by">
      <span>{{ readings ? 'shades as measured; dark: not tested' : 'shades as predicted' }}</span>
    </li>
    <li v-if="madeUp"><span>slanted figures: made-up readings</span></li>
  </ol>
</template>

<style scoped>
.legend {
  position: absolute;
  left: 0;
  right: 0;
  bottom: 0;
  min-height: 44px;
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  align-content: center;
  gap: 1px 12px;
  padding: 3px 104px 5px 12px;
  color: var(--paper);
  font-size: 0.72rem;
  line-height: 1.3;
  pointer-events: none;
}

.legend li {
  white-space: nowrap;
}

.legend i {
  display: inline-block;
  width: 16px;
  height: 10px;
  border: 1px solid #5a6079;
  margin-right: 4px;
}

.legend small {
  color: #a9afc2;
  margin-left: 3px;
}
</style>

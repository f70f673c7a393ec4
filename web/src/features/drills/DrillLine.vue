<script setup lang="ts">
import { computed } from 'vue'

import type { Drill } from '../../api/types'
import { seconds } from '../../shared/words'
import { sightWord } from './words'

/** What happened in a drill, on a line of time. */
const props = defineProps<{ drill: Drill }>()

const W = 300
const end = computed(() => Math.max(1000, ...props.drill.marks.map((own) => own.after_ms)) * 1.08)
const at = (ms: number) => 6 + (ms / end.value) * (W - 12)
const spoken = computed(() =>
  props.drill.marks
    .map((own) => `${sightWord[own.seen.kind]} after ${seconds(own.after_ms / 1000)}`)
    .join(', '),
)
</script>

<template>
  <svg :viewBox="`0 0 ${W} 22`" role="img" :aria-label="spoken || 'nothing marked'">
    <line x1="6" :x2="W - 6" y1="12" y2="12" />
    <path d="M6 4V20" class="pull" />
    <g v-for="(own, index) in drill.marks" :key="index">
      <title>{{ sightWord[own.seen.kind] }}: {{ seconds(own.after_ms / 1000) }}</title>
      <circle :cx="at(own.after_ms)" cy="12" r="5" :class="own.seen.kind" />
    </g>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 420px;
  height: 22px;
  display: block;
}

line {
  stroke: var(--quiet);
}

.pull {
  stroke: var(--comb);
  stroke-width: 3;
}

circle {
  fill: #fff;
  stroke: var(--ink);
  stroke-width: 2;
}

circle.loss_noticed,
circle.session_broke {
  fill: var(--comb);
}

circle.all_back,
circle.first_choice {
  fill: var(--leaf);
}
</style>

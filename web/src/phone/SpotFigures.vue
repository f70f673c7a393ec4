<script setup lang="ts">
import { computed } from 'vue'

import { speed } from '../shared/words'
import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone }>()
const { view, last, spot } = props.phone

/** The run just kept here, leg by leg. */
const legs = computed(() => {
  if (!last.value || last.value.run.spot_id !== spot.value?.spot_id) return []
  return [last.value.run, last.value.beyond].flatMap((run) => {
    if (run?.outcome.kind !== 'measured') return []
    const kind = run.under?.kind ?? view.value?.under.kind
    return [{ title: kind === 'local' ? 'within the home' : 'to the far end', ...run.outcome }]
  })
})
</script>

<template>
  <dl v-for="leg in legs" :key="leg.title" :aria-label="`The run just kept, ${leg.title}`">
    <div v-if="legs.length > 1 || view?.far_end" class="leg">{{ leg.title }}</div>
    <div>
      <dt>down</dt>
      <dd>{{ speed(leg.down_mbps) }}<small>Mb/s</small></dd>
    </div>
    <div>
      <dt>up</dt>
      <dd>{{ speed(leg.up_mbps) }}<small>Mb/s</small></dd>
    </div>
    <div>
      <dt>idle</dt>
      <dd>{{ leg.idle_ms?.toFixed(0) ?? '–' }}<small>ms</small></dd>
    </div>
    <div>
      <dt>busy</dt>
      <dd>{{ leg.loaded_ms?.toFixed(0) ?? '–' }}<small>ms</small></dd>
    </div>
  </dl>
  <p v-if="legs.length && last?.slow_leg">
    The slow part is
    <b>{{ last.slow_leg === 'line' ? 'the line or beyond it' : 'within the home' }}</b>.
  </p>
  <p v-if="legs.length && last?.beyond_problem" class="note">To the far end: {{ last.beyond_problem }}</p>
  <p v-if="legs.length && last?.kit" class="small">{{ last.kit }}</p>
  <p v-if="last?.told && last.run.spot_id === spot?.spot_id" role="status">
    <b>{{ last.told }}</b>
  </p>
</template>

<script setup lang="ts">
import { computed } from 'vue'

import type { RoundView } from '../../api/types'

const props = defineProps<{ open: RoundView }>()
const emit = defineEmits<{ type: [spot: string] }>()
const film = computed(() => props.open.round.purpose === 'application_check')
/** Where gaps of walks were, spot by spot. */
const gaps = computed(() =>
  props.open.spots.flatMap((row) =>
    row.runs.flatMap((run) =>
      run.outcome.kind === 'walked' && !run.void
        ? run.outcome.check.gaps.map((gap, index) => ({ key: `${run.id} ${index}`, ...gap }))
        : [],
    ),
  ),
)
const name = (spot: string) => props.open.spots.find((own) => own.spot_id === spot)?.name ?? ''
</script>

<template>
  <table class="sheet">
    <thead>
      <tr>
        <th scope="col">spot</th>
        <th scope="col">what came of it, newest first</th>
        <th scope="col">holds</th>
        <th v-if="film"><span class="visually-hidden">type in</span></th>
      </tr>
    </thead>
    <tbody>
      <template v-for="row in open.spots" :key="row.spot_id">
        <tr v-for="(own, index) in row.checks.length ? row.checks : [undefined]" :key="own?.run_id ?? 'none'">
          <th scope="row">{{ index === 0 ? row.name : '' }}</th>
          <td class="words" :class="{ quiet: !own }">
            {{ own?.words ?? 'not checked yet'
            }}<small v-if="own?.note" class="quiet"> “{{ own.note }}”</small>
          </td>
          <td :class="own?.holds == null ? 'quiet' : own.holds ? 'met' : 'not_met'">
            {{ own?.holds == null ? '–' : own.holds ? 'holds' : 'does not hold' }}
          </td>
          <td v-if="film" class="do">
            <v-btn
              v-if="index === 0"
              size="small"
              variant="text"
              :aria-label="`Another screen at ${row.name}`"
              @click="emit('type', row.spot_id)"
            >
              Another screen
            </v-btn>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-if="gaps.length" class="small">
    Gaps of the walks:
    <template v-for="gap in gaps" :key="gap.key">
      {{ (gap.lasted_ms / 1000).toFixed(1) }} s after {{ name(gap.after) }};
    </template>
  </p>
  <p class="small quiet">{{ open.check_rule }}</p>
</template>

<style scoped>
.sheet .words {
  white-space: normal;
}

.do {
  text-align: right;
}
</style>

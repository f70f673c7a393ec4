<script setup lang="ts">
import type { RoundView, Run } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { speed } from '../../shared/words'

const props = defineProps<{ open: RoundView }>()
const catalogue = useCatalogue()

const where = (run: Run) => props.open.spots.find((own) => own.spot_id === run.spot_id)?.name ?? ''
const device = (run: Run) => {
  const key = run.under?.client ?? props.open.round.client
  return catalogue.value?.clients.find((own) => own.key === key)?.short ?? key
}
const time = (at: string) => new Date(at).toLocaleTimeString(undefined, { timeStyle: 'medium' })
const part = (run: Run, of: number) =>
  run.outcome.kind === 'measured' && of > 0 ? (run.outcome.down_mbps / of) * 100 : 0
</script>

<template>
  <p v-if="open.rushes.length === 0" class="quiet">
    Nothing yet. Pair several phones with this round and press “Begin with the others” on each within ten
    seconds.
  </p>
  <section v-for="rush in open.rushes" :key="rush.together">
    <h2>
      {{ time(rush.at) }}: {{ rush.runs.length }} phone{{ rush.runs.length === 1 ? '' : 's' }},
      {{ speed(rush.down_mbps) }} / {{ speed(rush.up_mbps) }} Mb/s together
    </h2>
    <p class="small quiet">
      Shared {{ (rush.fairness * 100).toFixed(0) }} % evenly (Jain’s index){{
        rush.worst_loaded_ms == null
          ? ''
          : `; the longest delay under load was ${rush.worst_loaded_ms.toFixed(0)} ms`
      }}.
    </p>
    <table class="sheet">
      <thead>
        <tr>
          <th scope="col">phone</th>
          <th scope="col">spot</th>
          <th scope="col" class="number">down / up</th>
          <th scope="col" class="number">load ms</th>
          <th scope="col">share of the download</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="run in rush.runs" :key="run.id">
          <th scope="row">{{ device(run) }}</th>
          <td>{{ where(run) }}</td>
          <template v-if="run.outcome.kind === 'measured'">
            <td class="number">{{ speed(run.outcome.down_mbps) }} / {{ speed(run.outcome.up_mbps) }}</td>
            <td class="number">{{ run.outcome.loaded_ms?.toFixed(0) ?? '–' }}</td>
          </template>
          <template v-else>
            <td class="number">no connection</td>
            <td class="number">–</td>
          </template>
          <td>
            <span class="bar" :style="{ width: `${part(run, rush.down_mbps)}%` }" />
            {{ part(run, rush.down_mbps).toFixed(0) }} %
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.bar {
  display: inline-block;
  height: 10px;
  max-width: 70%;
  background: var(--plum);
}
</style>

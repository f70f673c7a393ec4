<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { reactive } from 'vue'

import type { ApiProblem } from '../../api/client'
import type { NewRun, RoundView, SpotRow } from '../../api/types'
import { numberOf } from '../../shared/words'

const props = defineProps<{
  spot: SpotRow
  round: RoundView
  add: (run: NewRun, confirmed: boolean) => Promise<void>
}>()
const emit = defineEmits<{ close: [] }>()

const empty = {
  screen: '',
  rate: '25',
  start: '',
  seek: '',
  stalls: '0',
  still: '0',
  watched: '60',
  id: newId(),
}
/** What is half typed stays on this machine until it is kept. */
const form = useLocalStorage(`busy-hen check ${props.round.round.id} ${props.spot.spot_id}`, { ...empty })
const told = reactive({ problem: '', busy: false })

const seconds = (held: string) => numberOf(held) * 1000

async function keep() {
  const { rate, start, seek, stalls, still, watched } = form.value
  const needed = [numberOf(rate), seconds(start), numberOf(stalls), seconds(still), seconds(watched)]
  if (needed.some((value) => !Number.isFinite(value) || value < 0)) {
    told.problem =
      'Seconds to the picture, how often it stood still, how long, and how long you watched are needed.'
    return
  }
  if (told.busy) return
  told.busy = true
  const sought = seek.trim() === '' ? null : seconds(seek)
  try {
    await props.add(
      {
        id: form.value.id,
        spot_id: props.spot.spot_id,
        source: 'typed',
        outcome: {
          kind: 'film',
          check: {
            rate_mbps: numberOf(rate),
            started_ms: seconds(start),
            sought_ms: sought,
            stalls: Math.round(numberOf(stalls)),
            stalled_ms: seconds(still),
            watched_ms: seconds(watched),
          },
        },
        carried_by: 'home_wifi',
        trace_mbps: [],
        note: form.value.screen || null,
      },
      false,
    )
    form.value = { ...empty, id: newId() }
    emit('close')
  } catch (error) {
    told.problem = (error as ApiProblem).message
  } finally {
    told.busy = false
  }
}
</script>

<template>
  <v-card :title="`${spot.name}: what another screen did`">
    <v-card-text>
      <form class="form" @submit.prevent="keep">
        <v-text-field v-model="form.screen" label="Which screen" placeholder="TV in the corner" autofocus />
        <v-text-field v-model="form.rate" label="Rate of the film, Mb/s" inputmode="decimal" />
        <v-text-field v-model="form.start" label="Picture after, s (needed)" inputmode="decimal" />
        <v-text-field v-model="form.seek" label="After a seek, s" inputmode="decimal" />
        <v-text-field v-model="form.stalls" label="Stood still, times" inputmode="numeric" />
        <v-text-field v-model="form.still" label="Stood still in all, s" inputmode="decimal" />
        <v-text-field v-model="form.watched" label="Watched, s" inputmode="decimal" />
        <p v-if="told.problem" class="note bad wide" role="alert">{{ told.problem }}</p>
        <div class="wide buttons">
          <v-btn @click="emit('close')">Close</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :disabled="told.busy">Keep it</v-btn>
        </div>
      </form>
    </v-card-text>
  </v-card>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  padding-top: 6px;
}

.wide {
  grid-column: 1 / -1;
  margin: 0;
}

.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>

<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { reactive } from 'vue'

import type { ApiProblem } from '../../api/client'
import type { NewRun, RoundView, SpotRow } from '../../api/types'
import { useReading } from '../../shared/numbers'
import TypedField from '../../shared/TypedField.vue'

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

const { told: read, read: readAll } = useReading({
  rate: 'speed',
  start: 'time',
  seek: 'time',
  stalls: 'count',
  still: 'time',
  watched: 'time',
})

async function keep() {
  if (told.busy) return
  told.busy = true
  told.problem = ''
  try {
    const got = await readAll(form.value)
    if (!got) return
    const { rate, start, seek, stalls, still, watched } = got
    if (rate == null || start == null || stalls == null || still == null || watched == null) {
      told.problem =
        'Seconds to the picture, how often it stood still, how long, and how long you watched are needed.'
      return
    }
    await props.add(
      {
        id: form.value.id,
        spot_id: props.spot.spot_id,
        source: 'typed',
        outcome: {
          kind: 'film',
          check: {
            rate_mbps: rate,
            started_ms: start * 1000,
            sought_ms: seek == null ? null : seek * 1000,
            stalls,
            stalled_ms: still * 1000,
            watched_ms: watched * 1000,
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
        <TypedField v-model="form.rate" :told="read.rate" label="Rate of the film, Mb/s" />
        <TypedField v-model="form.start" :told="read.start" label="Picture after, s (needed)" />
        <TypedField v-model="form.seek" :told="read.seek" label="After a seek, s" />
        <TypedField v-model="form.stalls" :told="read.stalls" label="Stood still, times" />
        <TypedField v-model="form.still" :told="read.still" label="Stood still in all, s" />
        <TypedField v-model="form.watched" :told="read.watched" label="Watched, s" />
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

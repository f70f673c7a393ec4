<script setup lang="ts">
import { computed, ref } from 'vue'

import { answer, api, ApiProblem } from '../../api/client'
import type { RoundView } from '../../api/types'
import { useHome } from '../bench'
import ConfirmList from './ConfirmList.vue'
import { useConfirm } from './useConfirm'

const props = defineProps<{ open: RoundView }>()
const emit = defineEmits<{ close: []; begun: [id: string, setup: string] }>()
const home = useHome()

const setups = computed(
  () =>
    home.view.value?.home.setups
      .filter((own) => own.devices.length > 0)
      .map((own) => ({ title: `${own.letter} ${own.name}`, value: own.id })) ?? [],
)
const other = setups.value.find((own) => own.value !== props.open.round.setup_id)
const setup = ref(other?.value ?? props.open.round.setup_id)
const confirm = useConfirm(home, () => setup.value)
const problem = ref('')
const busy = ref(false)

async function begin() {
  if (busy.value) return
  busy.value = true
  try {
    const view = await answer(
      api.POST('/api/rounds/{round}/again', {
        params: { path: { round: props.open.round.id } },
        body: { setup_id: setup.value, confirmed: confirm.list.value },
      }),
    )
    emit('begun', view.round.id, setup.value)
  } catch (error) {
    problem.value = (error as ApiProblem).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <v-card title="The same round again">
    <v-card-text>
      <p class="small quiet">
        The same {{ open.round.spots.length }} spots in the same order, the same device, band, doors and
        number of runs.
      </p>
      <v-select v-model="setup" :items="setups" label="In setup" />
      <ConfirmList :confirm="confirm" class="list" />
      <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
      <div class="end">
        <v-btn size="small" @click="emit('close')">Cancel</v-btn>
        <v-btn id="begin-again" size="small" variant="flat" color="primary" @click="begin">Begin it</v-btn>
      </div>
    </v-card-text>
  </v-card>
</template>

<style scoped>
p {
  margin: 0 0 14px;
}

.list {
  margin: 10px 0;
}

.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 10px;
}
</style>

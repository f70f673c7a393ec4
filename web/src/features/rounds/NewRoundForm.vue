<script setup lang="ts">
import { computed, reactive } from 'vue'

import { answer, api, ApiProblem } from '../../api/client'
import type { Band, NewRound, Setup } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { useHome } from '../bench'

const props = defineProps<{ setup: Setup }>()
const emit = defineEmits<{ close: []; begun: [id: string] }>()

const home = useHome()
const catalogue = useCatalogue()
const form = reactive({
  client: 'phone_ax',
  band: '' as Band | '',
  kind: 'internet' as NewRound['kind'],
  doors: 'as_left' as NewRound['doors'],
  situation: 'alone' as NewRound['situation'],
  runs: '5',
  spots: [] as string[],
  problem: '',
  busy: false,
})

const clients = computed(
  () => catalogue.value?.clients.map((own) => ({ title: own.name, value: own.key })) ?? [],
)
const bands = computed(() => {
  const client = catalogue.value?.clients.find((own) => own.key === form.client)
  const own = client?.bands ?? []
  return [
    { title: 'as it chooses', value: '' },
    ...own.map(({ band }) => ({ title: `${band} GHz only`, value: band })),
  ]
})
const spots = computed(() => {
  const view = home.view.value
  return (view?.home.house.spots ?? []).flatMap((spot) => {
    const room = view?.drawing.rooms.find((own) => own.room_id === spot.room_id)
    return room ? [{ title: spot.name ? `${room.name}, ${spot.name}` : room.name, value: spot.id }] : []
  })
})

async function begin() {
  if (form.busy) return
  form.busy = true
  const body: NewRound = {
    setup_id: props.setup.id,
    client: form.client,
    band: form.band || null,
    kind: form.kind,
    doors: form.doors,
    situation: form.situation,
    runs_per_spot: Math.max(0, Math.round(Number(form.runs) || 0)),
    spots: form.spots,
  }
  try {
    const view = await answer(
      api.POST('/api/homes/{home}/rounds', { params: { path: { home: home.id } }, body }),
    )
    emit('begun', view.round.id)
  } catch (error) {
    form.problem = (error as ApiProblem).message
  } finally {
    form.busy = false
  }
}
</script>

<template>
  <v-card :title="`Begin a round in setup ${setup.letter}`">
    <v-card-text>
      <form class="form" @submit.prevent="begin">
        <v-select
          v-model="form.kind"
          :items="[
            { title: 'internet: does the family get its plan?', value: 'internet' },
            { title: 'local: what can the kit do?', value: 'local' },
          ]"
          label="Test to"
        />
        <v-select v-model="form.client" :items="clients" label="Test device" />
        <v-select v-model="form.band" :items="bands" label="Band" />
        <v-select
          v-model="form.doors"
          :items="[
            { title: 'as people leave them', value: 'as_left' },
            { title: 'all open', value: 'open' },
            { title: 'all shut', value: 'shut' },
          ]"
          label="Doors"
        />
        <v-select
          v-model="form.situation"
          :items="[
            { title: 'nothing else busy', value: 'alone' },
            { title: 'busy evening', value: 'busy_evening' },
          ]"
          label="Household"
        />
        <v-text-field v-model="form.runs" label="Runs at each spot" inputmode="numeric" />
        <v-select
          v-model="form.spots"
          :items="spots"
          label="Spots, in walking order; all when left empty"
          multiple
          class="wide"
        />
        <p class="small quiet wide">
          Before testing one access point, see that no other radio of yours is still on air. Test only
          networks you have permission for.
        </p>
        <p v-if="form.problem" class="note bad wide" role="alert">{{ form.problem }}</p>
        <div class="wide buttons">
          <v-btn @click="emit('close')">Cancel</v-btn>
          <v-btn type="submit" variant="flat" color="primary">Begin</v-btn>
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

@media (max-width: 600px) {
  .form {
    grid-template-columns: 1fr;
  }
}
</style>

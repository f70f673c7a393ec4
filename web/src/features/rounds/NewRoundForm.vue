<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'

import { answer, api, ApiProblem } from '../../api/client'
import type { Band, NewRound, Purpose, Setup } from '../../api/types'
import NumberField from '../../shared/NumberField.vue'
import { unread } from '../../shared/numbers'
import { useCatalogue } from '../../shared/useCatalogue'
import { useBench, useHome } from '../bench'
import { LegsNote } from '../network'
import ConfirmList from './ConfirmList.vue'
import SpotPicker from './SpotPicker.vue'
import { useConfirm } from './useConfirm'

const props = defineProps<{
  setup: Setup
  /** What it is for, where that is known. */
  forPurpose?: Purpose
}>()
const emit = defineEmits<{ close: []; begun: [id: string] }>()

const home = useHome()
const bench = useBench()
const catalogue = useCatalogue()
const confirm = useConfirm(home, () => props.setup.id)
const form = reactive({
  purpose: props.forPurpose ?? 'rooms',
  client: 'phone_ax',
  band: '' as Band | '',
  kind: 'internet' as NewRound['kind'],
  doors: 'as_left' as NewRound['doors'],
  situation: 'alone' as NewRound['situation'],
  runs: 6,
  spot: '',
  place: '',
  problem: '',
  busy: false,
})
/** Where the kit reports who serves whom. */
const report = ref('')
const LIKE = 'http://192.168.1.1/report.json'
const chosen = ref<string[]>([])

const PURPOSES: { value: Purpose; title: string; words: string; where?: string }[] = [
  { value: 'rooms', title: 'room by room', words: '' },
  {
    value: 'baseline',
    title: 'room by room, as found',
    words: 'Before anything is changed: what later rounds are set against.',
  },
  {
    value: 'after',
    title: 'room by room, after a change',
    words: 'The same spots, device and doors as before it.',
  },
  {
    value: 'wired_ceiling',
    title: 'wired ceiling',
    words:
      'By cable at the router, then at the box of the line itself: the most that anything else can reach, and whether line or router is slow.',
    where: 'Where the router stands',
  },
  {
    value: 'range_walk',
    title: 'range walk outdoors',
    words: 'Away from the house until it drops, and back: speed over distance.',
    where: 'Where the walk begins',
  },
  {
    value: 'outlet_trial',
    title: 'outlet trial, power line',
    words: 'Outlet by outlet, judged by what arrives against the need. Straight into the wall, no strips.',
    where: 'The room it is for',
  },
  {
    value: 'placement_trial',
    title: 'placement trial of a node',
    words: 'Carry the node: what it hears at each place, and what the weak room gets of it.',
    where: 'The weak room',
  },
  {
    value: 'family_rush',
    title: 'family rush',
    words: 'Several phones begin at the same moment: each one’s share, and the delay meanwhile.',
  },
  {
    value: 'application_check',
    title: 'film and call',
    words: 'Data at the rate of a 4K film and of a call: starts, seeks, holds?',
  },
  {
    value: 'hand_over_walk',
    title: 'hand-over walk',
    words:
      'Delay without a break while walking: where are gaps when the phone goes from one device to the next?',
  },
  {
    value: 'route_walk',
    title: 'route walk, signal only',
    words:
      'Signal or link rate at marks along a way that can be walked again; no speed test. Two setups compare mark by mark.',
    where: 'Where the route begins',
  },
]
const purpose = computed(() => PURPOSES.find((own) => own.value === form.purpose))
const clients = computed(
  () => catalogue.value?.clients.map((own) => ({ title: own.name, value: own.key })) ?? [],
)
const bands = computed(() => {
  const client = catalogue.value?.clients.find((own) => own.key === form.client)
  const own = client?.port_mbps ? [] : (client?.bands ?? [])
  return [
    { title: 'as it chooses', value: '' },
    ...own.map(({ band }) => ({ title: `${band} GHz only`, value: band })),
  ]
})
const spots = computed(() => {
  const view = home.view.value
  return (view?.home.house.spots ?? []).flatMap((spot) => {
    const room = view?.drawing.rooms.find((own) => own.room_id === spot.room_id)
    return room
      ? [
          {
            title: spot.name ? `${room.name}, ${spot.name}` : room.name,
            value: spot.id,
            room: room.room_id,
            outdoors: room.outdoors,
          },
        ]
      : []
  })
})
watch(
  () => form.purpose,
  (now) => {
    // Where it begins by itself: outdoors for walks away from the house.
    const away = ['range_walk', 'route_walk'].includes(now)
    const chosenRoom = spots.value.find((own) => own.room === bench.roomId && own.outdoors === away)
    form.spot =
      (chosenRoom ?? spots.value.find((own) => own.outdoors === away) ?? spots.value[0])?.value ?? ''
    if (['wired_ceiling', 'outlet_trial', 'placement_trial'].includes(now)) form.kind = 'local'
  },
)

const round = computed(() => ({
  setup_id: props.setup.id,
  client: form.client,
  band: form.band || null,
  kind: form.kind,
  doors: form.doors,
  situation: form.situation,
  runs_per_spot: form.runs,
  purpose: form.purpose,
}))

async function begin() {
  if (form.busy) return
  const own = purpose.value?.where ? [form.spot].filter(Boolean) : chosen.value
  if (own.length === 0 && spots.value.length > 0) {
    form.problem = 'Choose at least one spot.'
    return
  }
  form.busy = true
  if (!(await unread.settled())) {
    form.busy = false
    return
  }
  const body: NewRound = {
    ...round.value,
    spots: own,
    confirmed: confirm.list.value,
    far_end_place: form.place,
    kit_report: report.value.trim(),
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
        <v-select v-model="form.purpose" :items="PURPOSES" label="What for" />
        <v-select
          v-model="form.kind"
          :items="[
            { title: 'internet: does the family get its plan?', value: 'internet' },
            ...(home.view.value?.home.brief.second_line
              ? [{ title: 'internet by the second line; let the first rest', value: 'second_line' }]
              : []),
            { title: 'local: what can the kit do?', value: 'local' },
          ]"
          label="Test to"
        />
        <p v-if="purpose?.words" class="small quiet wide">{{ purpose.words }}</p>
        <LegsNote :kind="form.kind" class="wide" />
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
        <NumberField :value="form.runs" of="count" label="Runs at each spot" @change="form.runs = $event" />
        <v-text-field
          v-model="report"
          label="Kit’s own report of who serves, if it gives one"
          :placeholder="LIKE"
        />
        <v-text-field
          v-if="form.kind !== 'local'"
          v-model="form.place"
          label="Far end: where, whose"
          placeholder="own machine in town"
        />
        <v-select v-if="purpose?.where" v-model="form.spot" :items="spots" :label="purpose.where" />
        <SpotPicker v-else v-model="chosen" :round="round" class="wide" />
        <ConfirmList :confirm="confirm" class="wide" />
        <p class="small quiet wide">
          Before testing one access point, see that no other radio of yours is still on air. Test only
          networks you have permission for.
        </p>
        <div class="wide buttons">
          <p v-if="form.problem" class="note bad" role="alert">{{ form.problem }}</p>
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
  position: sticky;
  bottom: -24px;
  padding: 10px 0;
  margin-bottom: -16px;
  background: #fff;
  border-top: 1px solid var(--line);
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 8px;
}

.buttons .note {
  flex: 1 1 100%;
  margin: 0;
}

@media (max-width: 600px) {
  .form {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { v4 as newId } from 'uuid'
import { computed, ref, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { NewRound, Spot, WalkingOrder } from '../../api/types'
import { length } from '../../shared/words'
import { useHome } from '../bench'
import { houseEdit } from '../house'
import { useLatest } from '../../shared/useLatest'
import RoundLevel, { type DrawnSpot } from './RoundLevel.vue'

const props = defineProps<{ round: Omit<NewRound, 'spots' | 'order'> }>()
/** Spots in the order they are walked. */
const chosen = defineModel<string[]>({ required: true })
const home = useHome()
const order = ref<WalkingOrder>('short_way')
const adding = ref(false)
const far = ref<number>()
const problem = ref('')

const view = computed(() => home.view.value)
const drawing = computed(() => view.value?.drawing)
const units = computed(() => view.value?.home.units ?? 'm')
const room = (id: string) => drawing.value?.rooms.find((own) => own.room_id === id)
const spots = computed<DrawnSpot[]>(() =>
  (view.value?.home.house.spots ?? []).flatMap((spot) => {
    const own = room(spot.room_id)
    if (!own) return []
    const place = chosen.value.indexOf(spot.id)
    return [
      {
        id: spot.id,
        name: spot.name ? `${own.name}, ${spot.name}` : own.name,
        level: own.level_id,
        x: own.x_m + spot.east_part * own.width_m,
        y: own.y_m + spot.south_part * own.depth_m,
        number: place < 0 ? undefined : place + 1,
      },
    ]
  }),
)

const sorted = (list: string[]) => [...list].sort().join()
const alike = (one: string[], other: string[]) => sorted(one) === sorted(other)

/** The server knows the house and what is predicted: it lays the way. */
const lay = useLatest<void>(async () => {
  if (order.value === 'as_listed' || chosen.value.length === 0) return
  try {
    const way = await answer(
      api.POST('/api/homes/{home}/way', {
        params: { path: { home: home.id } },
        body: { ...props.round, spots: chosen.value, order: order.value },
      }),
    )
    problem.value = ''
    // A spot may have been pressed meanwhile; its own way follows.
    if (alike(way.spots, chosen.value)) {
      far.value = way.length_m
      chosen.value = way.spots
    }
  } catch {
    // What is wrong with the round is told where it is begun.
    far.value = undefined
  }
})
/** Which spots, however they are walked: the way itself is no reason to lay it again. */
const set = computed(() => sorted(chosen.value))
watch([order, set, () => JSON.stringify(props.round)], () => lay())
watch(
  spots,
  (now, before) => {
    if (!before?.length && chosen.value.length === 0) chosen.value = now.map((own) => own.id)
  },
  { immediate: true },
)

function toggle(id: string) {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter((own) => own !== id) : [...chosen.value, id]
  lay()
}

/** The room at a place, and where in it. */
function within(level: string, x: number, y: number) {
  const own = drawing.value?.rooms.find(
    (one) =>
      one.level_id === level &&
      one.parts.some(
        (part) =>
          x >= part.x_m && x <= part.x_m + part.width_m && y >= part.y_m && y <= part.y_m + part.depth_m,
      ),
  )
  if (!own) return undefined
  const part = (value: number) => Math.min(0.98, Math.max(0.02, value))
  return {
    room_id: own.room_id,
    east_part: part((x - own.x_m) / own.width_m),
    south_part: part((y - own.y_m) / own.depth_m),
  }
}

async function store(change: (list: Spot[]) => Spot[]) {
  const now = view.value
  if (!now) return
  const edit = houseEdit(now)
  await home.change((header) =>
    api.PUT('/api/homes/{home}/house', {
      params: { path: { home: home.id }, header },
      body: { ...edit, spots: change(edit.spots) },
    }),
  )
}

async function move(id: string, x: number, y: number) {
  const level = spots.value.find((own) => own.id === id)?.level
  const at = level && within(level, x, y)
  const before = view.value?.home.house.spots.find((own) => own.id === id)
  if (!at || !before) {
    problem.value = 'A spot stays within a room; put it inside of one.'
    return
  }
  if (at.room_id !== before.room_id) {
    problem.value =
      'A spot stays in its room, so that its readings keep their meaning; add another one there.'
    return
  }
  problem.value = ''
  await store((list) => list.map((own) => (own.id === id ? { ...own, ...at } : own)))
}

async function add(level: string, x: number, y: number) {
  const at = within(level, x, y)
  if (!at) {
    problem.value = 'Press inside of a room.'
    return
  }
  const same = view.value?.home.house.spots.filter((own) => own.room_id === at.room_id) ?? []
  const id = newId()
  const name = same.length ? String(same.length + 1) : ''
  adding.value = false
  problem.value = ''
  await store((list) => [...list, { id, name, ...at }])
  if (view.value?.home.house.spots.some((own) => own.id === id)) {
    chosen.value = [...chosen.value, id]
  }
}

const ORDERS: { value: WalkingOrder; title: string }[] = [
  { value: 'short_way', title: 'a short way' },
  { value: 'worst_first', title: 'worst first' },
  { value: 'worst_last', title: 'worst last' },
  { value: 'as_listed', title: 'as I press them' },
]
</script>

<template>
  <fieldset>
    <legend>Spots and the way through them</legend>
    <div class="row">
      <v-select v-model="order" :items="ORDERS" label="Walked" class="order" />
      <v-btn size="small" @click="chosen = spots.map((own) => own.id)">All</v-btn>
      <v-btn size="small" @click="chosen = []">None</v-btn>
      <v-btn
        size="small"
        :variant="adding ? 'flat' : 'outlined'"
        :aria-pressed="adding"
        @click="adding = !adding"
      >
        {{ adding ? 'Press in a room' : 'Add a spot' }}
      </v-btn>
      <span class="small quiet" role="status">
        {{ chosen.length }} spot{{ chosen.length === 1 ? '' : 's'
        }}{{
          far && order !== 'as_listed'
            ? `, about ${length(far, units).replace(/\.\d+/, '')} to walk with the stairs`
            : ''
        }}
      </span>
    </div>
    <div v-if="drawing" class="levels">
      <RoundLevel
        v-for="own in drawing.levels"
        :key="own.level_id"
        :drawing="drawing"
        :level="own.level_id"
        :spots="spots"
        :units="units"
        :adding="adding"
        editable
        @choose="toggle"
        @move="move"
        @add="(x, y) => add(own.level_id, x, y)"
      />
    </div>
    <p v-if="problem" class="note small" role="alert">{{ problem }}</p>
    <p class="small quiet">
      A press takes a spot in or out, dragging or arrow keys move it. With “as I press them” the order is that
      of your presses.
    </p>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
}

legend {
  font-weight: 600;
}

.row {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin: 4px 0 8px;
}

.order {
  max-width: 170px;
}

.levels {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(250px, 1fr));
  gap: 8px;
}
</style>

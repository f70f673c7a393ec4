<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { v4 as newId } from 'uuid'

import { answer, api } from '../../api/client'
import type { Drawing, HouseEdit } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import LengthField from '../../shared/LengthField.vue'
import { area } from '../../shared/words'
import { useBench, useHome, useHomeDraft } from '../bench'
import AirList from './AirList.vue'
import HouseDrawing from './HouseDrawing.vue'
import LineEditor from './LineEditor.vue'
import ObstacleList from './ObstacleList.vue'
import RoomSides from './RoomSides.vue'
import { houseEdit } from './houseEdit'
import { useMaterials } from './useMaterials'

const home = useHome()
const bench = useBench()
const { walls, floors, fillings } = useMaterials()
const ROOF = { title: 'the roof', value: null }
const GROUND = { title: 'the ground', value: null }
const drawing = shallowRef<Drawing>()
const adding = ref(false)

const view = computed(() => home.view.value)
const units = computed(() => view.value?.home.units ?? 'm')
const draft = useHomeDraft<HouseEdit>(home, {
  name: 'house',
  part: houseEdit,
  send: (body, header) =>
    api.PUT('/api/homes/{home}/house', { params: { path: { home: home.id }, header }, body }),
})
const edit = draft.edit
watch(
  view,
  (now) => {
    if (now && !draft.dirty.value) drawing.value = now.drawing
  },
  { immediate: true },
)

const level = computed(
  () => edit.value?.levels.find((own) => own.id === bench.levelId) ?? edit.value?.levels[0],
)
const room = computed(() => drawing.value?.rooms.find((own) => own.room_id === bench.roomId))
const faults = computed(
  () => drawing.value?.faults.filter((fault) => fault.level_id === level.value?.id) ?? [],
)
const indoors = computed(
  () => drawing.value?.levels.find((own) => own.level_id === level.value?.id)?.area_m2 ?? 0,
)

/** Draws what is typed before it is stored; an answer that comes late is dropped. */
const redraw = useLatest(async (body: HouseEdit) => {
  try {
    const drawn = await answer(
      api.POST('/api/homes/{home}/drawing', { params: { path: { home: home.id } }, body }),
    )
    if (draft.dirty.value) drawing.value = drawn
  } catch {
    // The save that follows tells what is wrong.
  }
})
watch(
  edit,
  (now) => {
    if (now && draft.dirty.value) redraw(now)
  },
  { deep: true },
)

function addLevel() {
  if (!edit.value) return
  const names = ['Ground', 'First', 'Second', 'Third', 'Attic']
  const free = names.find((name) => edit.value?.levels.every((own) => own.name !== name))
  const id = newId()
  edit.value.levels.push({
    id,
    name: free ?? `Level ${edit.value.levels.length + 1}`,
    height_m: 2.6,
    floor: edit.value.levels.length === 0 ? 'concrete_floor' : 'unsaid_floor',
    lines: '',
  })
  bench.levelId = id
  adding.value = true
}

function removeLevel() {
  if (!edit.value || !level.value) return
  const index = edit.value.levels.indexOf(level.value)
  edit.value.levels.splice(index, 1)
  bench.levelId = edit.value.levels[0]?.id
}

/** Lines as one may type them, in the home's own unit. */
const example = computed(() =>
  units.value === 'ft'
    ? [`Hall 6'6" x 16'`, `Kitchen 14' x 12' east of Hall`]
    : ['Hall 2 x 5', 'Kitchen 4.2 x 3.6 east of Hall'],
)

const saved = computed(() => view.value?.home.house.rooms.some((own) => own.id === bench.roomId))
</script>

<template>
  <div v-if="edit" class="house">
    <section class="typing">
      <header>
        <h1>House</h1>
        <span class="small quiet" role="status">{{ draft.state.value }}</span>
      </header>
      <div class="levels" role="group" aria-label="Levels">
        <button
          v-for="own in edit.levels"
          :key="own.id"
          type="button"
          :aria-pressed="own.id === level?.id"
          @click="bench.levelId = own.id"
        >
          {{ own.name || 'unnamed' }}
        </button>
        <button id="add-level" type="button" @click="addLevel">+ level</button>
      </div>
      <template v-if="level">
        <div class="facts">
          <v-text-field v-model="level.name" label="Level" :autofocus="adding" />
          <LengthField
            :key="level.id"
            :metres="level.height_m"
            label="Floor to floor"
            :units="units"
            @change="level.height_m = $event"
          />
          <v-select v-model="level.floor" :items="floors" label="Floor under it" />
        </div>
        <LineEditor
          v-model="level.lines"
          :faults="faults"
          :chosen="room?.level_id === level.id ? room.line : -1"
          :example="example.join('\n')"
        />
        <details class="small quiet help">
          <summary>How to type it</summary>
          One line a room, width (east) x depth (south): <code>{{ example[1] }}</code>. Then, as needed,
          <code>flush south</code>, <code>centred</code>,
          <code>offset {{ units === 'ft' ? `1'6"` : '0.5' }}</code
          >, <code>outdoors</code>. On another level: <code>above Hall</code>. Lengths also as
          <code>12'6"</code> or <code>420 cm</code>. <code>#</code> begins a comment.
        </details>
        <v-btn v-if="edit.levels.length > 1" size="small" variant="text" @click="removeLevel">
          Remove this level
        </v-btn>
      </template>
      <template v-if="level">
        <ObstacleList v-model="edit" :level-id="level.id" :units="units" />
        <AirList />
      </template>
      <p v-else class="quiet">No level yet. Add one with “+ level”, then type one line a room.</p>
    </section>

    <section class="drawn">
      <HouseDrawing
        v-if="drawing && level"
        :drawing="drawing"
        :obstacles="edit.obstacles"
        :level-id="level.id"
        :units="units"
      />
      <p v-if="level" class="small quiet">
        {{ area(indoors, units) }} indoors on this level. Walls between rooms are drawn once; where both rooms
        name a material, the heavier counts. What follows holds where nothing else is said.
      </p>
      <div class="walls">
        <v-select v-model="edit.outer_wall" :items="walls" label="Outer walls" />
        <v-select v-model="edit.inner_wall" :items="walls" label="Inner walls" />
        <v-select v-model="edit.windows" :items="fillings" label="Windows" />
        <template v-if="edit.around">
          <v-select v-model="edit.around.above" :items="[ROOF, ...floors]" label="Above it" />
          <v-select v-model="edit.around.below" :items="[GROUND, ...floors]" label="Under it" />
          <v-checkbox v-if="edit.levels.length > 1" v-model="edit.around.stairs" label="has stairs" />
        </template>
      </div>
      <RoomSides
        v-if="room && saved"
        v-model="edit"
        :room="room"
        :units="units"
        :walls="walls"
        :fillings="fillings"
      />
      <p v-else class="small quiet">
        Choose a room on the drawing or in the ledger to set what its sides are made of, its doors, windows
        and stairs.
      </p>
    </section>
  </div>
</template>

<style scoped>
.house {
  display: grid;
  grid-template-columns: minmax(290px, 0.72fr) minmax(0, 1fr);
  min-height: 100%;
}

section {
  padding: 16px;
}

.typing {
  border-right: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 10px;
}

header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}

.levels {
  display: flex;
  flex-wrap: wrap;
  border: 1px solid var(--quiet);
  align-self: flex-start;
}

.levels button {
  padding: 4px 12px;
  background: #fff;
  font-size: 0.88rem;
}

.levels button[aria-pressed='true'] {
  background: var(--ink);
  color: #fff;
}

.facts {
  display: grid;
  grid-template-columns: 1fr 0.9fr;
  gap: 8px;
}

.facts > :last-child {
  grid-column: 1 / -1;
}

.help code {
  background: #fff;
  border: 1px solid var(--line);
  padding: 0 4px;
}

.walls {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
  margin-top: 10px;
}

@media (max-width: 900px) {
  .house {
    grid-template-columns: 1fr;
  }
}
</style>

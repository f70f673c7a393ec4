<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { computed, nextTick, ref, shallowRef } from 'vue'

import LengthField from '../../shared/LengthField.vue'
import { area, length } from '../../shared/words'
import type { DrawnLesson } from '../../api/types'
import { CalibrationPanel, useBench, useHome } from '../bench'
import AirList from './AirList.vue'
import FilesPanel from './FilesPanel.vue'
import GrammarPage from './GrammarPage.vue'
import HouseDrawing, { type Tool } from './HouseDrawing.vue'
import MissingList from './MissingList.vue'
import LineEditor from './LineEditor.vue'
import MaterialsPanel from './MaterialsPanel.vue'
import PocketLine from './PocketLine.vue'
import RoomPanel from './RoomPanel.vue'
import StartChooser from './StartChooser.vue'
import TracePanel from './TracePanel.vue'
import type { Place } from './useDrag'
import { provideHouse } from './useHouse'
import { useMaterials } from './useMaterials'

const house = provideHouse()
const bench = useBench()
const home = useHome()
const { floors } = useMaterials()
const { edit, level, drawing, units } = house
const pocket = useMediaQuery('(max-width: 600px)')

const editor = ref<InstanceType<typeof LineEditor> | null>(null)
const tool = ref<Tool>('choose')
/** Long narrow homes begin turned, and the button says so; nothing turns while one works. */
const first = drawing.value?.levels ?? []
const turned = ref(
  Math.max(0, ...first.map((own) => own.depth_m)) > 1.5 * Math.max(0, ...first.map((own) => own.width_m)),
)
/** What readings taught of the walls, drawn while it is told. */
const lessons = shallowRef<DrawnLesson[]>([])
const stretch = ref<{ from: Place; to: Place }>()
const TOOLS: { value: Tool; title: string }[] = [
  { value: 'choose', title: 'Choose, drag' },
  { value: 'room', title: 'Draw a room' },
  { value: 'area', title: 'Draw an area' },
  { value: 'measure', title: 'Measure' },
]
type Tab = 'lacks' | 'room' | 'materials' | 'learnt' | 'grammar' | 'picture' | 'files' | 'air'
const tab = ref<Tab>('lacks')
const lacking = computed(() => {
  const own = drawing.value
  return own ? own.faults.length + own.doubts.length + own.lacks.length : 0
})
const tabs = computed<{ value: Tab; title: string }[]>(() => [
  { value: 'lacks', title: lacking.value ? `Lacks ${lacking.value}` : 'Whole' },
  { value: 'room', title: house.room.value?.name ?? 'Room' },
  { value: 'materials', title: 'Made of' },
  ...(home.view.value?.tested.length ? [{ value: 'learnt' as const, title: 'Learnt' }] : []),
  { value: 'grammar', title: 'How to type it' },
  { value: 'picture', title: 'Over a picture' },
  { value: 'files', title: 'In and out' },
  { value: 'air', title: 'Neighbours' },
])
const totals = computed(() => {
  const own = drawing.value?.levels.find((one) => one.level_id === level.value?.id)
  const all = drawing.value?.area_m2 ?? 0
  if (!own) return ''
  const here = `${area(own.area_m2, units.value)} indoors, ${length(own.walls_m, units.value)} of walls`
  return (edit.value?.levels.length ?? 0) > 1 ? `${here}; ${area(all, units.value)} on all levels` : here
})

const NAMES = ['Ground', 'First', 'Second', 'Third', 'Attic']
async function addLevel() {
  if (!edit.value) return
  const free = NAMES.find((name) => edit.value?.levels.every((own) => own.name !== name))
  const id = newId()
  edit.value.levels.push({
    id,
    name: free ?? `Level ${edit.value.levels.length + 1}`,
    height_m: edit.value.levels.at(-1)?.height_m ?? (units.value === 'ft' ? 2.5908 : 2.6),
    floor: edit.value.levels.length === 0 ? 'concrete_floor' : 'unsaid_floor',
    lines: '',
  })
  bench.levelId = id
  await nextTick()
  editor.value?.goTo(0)
}

/** The level whose rooms may be copied: the one below, or above. */
const beside = computed(
  () => edit.value?.levels[house.levelIndex.value - 1] ?? edit.value?.levels[house.levelIndex.value + 1],
)
async function copyLevel() {
  if (level.value && beside.value) {
    await house.write([{ what: 'copy_level', of: beside.value.id, to: level.value.id }])
  }
}

function removeLevel() {
  if (!edit.value || !level.value) return
  edit.value.levels.splice(edit.value.levels.indexOf(level.value), 1)
  bench.levelId = edit.value.levels[0]?.id
}

async function goTo(levelId: string, line: number, from?: number, to?: number) {
  bench.levelId = levelId
  await nextTick()
  editor.value?.goTo(line, from, to)
}

function measured(from: Place, to: Place) {
  if (tool.value !== 'scale') return
  stretch.value = { from, to }
  tool.value = 'choose'
}
</script>

<template>
  <StartChooser v-if="edit && edit.levels.length === 0" @empty="addLevel" />
  <div v-else-if="edit && level" class="house" :class="{ pocket }">
    <section class="typing">
      <header>
        <h1>House</h1>
        <span class="small quiet" role="status">{{ house.draft.state.value }}</span>
      </header>
      <div class="levels" role="group" aria-label="Levels">
        <button
          v-for="own in edit.levels"
          :key="own.id"
          type="button"
          :aria-pressed="own.id === level.id"
          @click="bench.levelId = own.id"
        >
          {{ own.name || 'unnamed' }}
        </button>
        <button id="add-level" type="button" @click="addLevel">+ level</button>
      </div>
      <PocketLine v-if="pocket" />
      <LineEditor v-else ref="editor" :key="level.id" />
      <div v-if="level.lines.trim() === '' && beside" class="small">
        <v-btn size="small" @click="copyLevel">Copy the rooms of {{ beside.name }}</v-btn>
      </div>
      <details class="facts small">
        <summary>
          {{ level.name }}: {{ length(level.height_m, units) }} floor to floor{{
            totals ? `; ${totals}` : ''
          }}
        </summary>
        <div class="fields">
          <v-text-field v-model="level.name" label="Level" />
          <LengthField
            :key="level.id"
            :metres="level.height_m"
            label="Floor to floor"
            :units="units"
            @change="level.height_m = $event"
          />
          <v-select v-model="level.floor" :items="floors" label="Floor under it" />
          <v-btn v-if="edit.levels.length > 1" size="small" variant="text" @click="removeLevel">
            Remove this level
          </v-btn>
        </div>
      </details>
    </section>

    <section class="drawn">
      <div class="tools" role="group" aria-label="What a press on the drawing does">
        <button
          v-for="own in TOOLS"
          :key="own.value"
          type="button"
          :aria-pressed="tool === own.value"
          @click="tool = own.value"
        >
          {{ own.title }}
        </button>
        <button type="button" :aria-pressed="turned" @click="turned = !turned">
          {{ turned ? 'Turned: north is left' : 'Turn it' }}
        </button>
      </div>
      <HouseDrawing
        v-if="drawing"
        v-model:turned="turned"
        :tool="tool"
        :lessons="lessons"
        @measured="measured"
        @done="tool = 'choose'"
      />
      <div class="dock">
        <div class="tabs" role="tablist" aria-label="About the house">
          <button
            v-for="own in tabs"
            :key="own.value"
            type="button"
            role="tab"
            :aria-selected="tab === own.value"
            :tabindex="tab === own.value ? 0 : -1"
            @click="tab = own.value"
            @keydown.right="tab = tabs[(tabs.findIndex((one) => one.value === tab) + 1) % tabs.length]!.value"
            @keydown.left="
              tab = tabs[(tabs.findIndex((one) => one.value === tab) + tabs.length - 1) % tabs.length]!.value
            "
          >
            {{ own.title }}
          </button>
        </div>
        <div
          class="sheet-of-tab"
          role="tabpanel"
          tabindex="0"
          :aria-label="tabs.find((own) => own.value === tab)?.title"
        >
          <MissingList v-show="tab === 'lacks'" @go="goTo" @look="tab = 'materials'" />
          <RoomPanel v-if="tab === 'room'" />
          <MaterialsPanel v-else-if="tab === 'materials'" />
          <CalibrationPanel
            v-else-if="tab === 'learnt' && home.view.value"
            :view="home.view.value"
            @learnt="lessons = $event"
          />
          <GrammarPage v-else-if="tab === 'grammar'" @add="editor?.add($event)" />
          <TracePanel v-else-if="tab === 'picture'" :stretch="stretch" @scale="tool = 'scale'" />
          <FilesPanel v-else-if="tab === 'files'" />
          <AirList v-else-if="tab === 'air'" />
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
.house {
  display: grid;
  grid-template-columns: minmax(300px, 0.5fr) minmax(0, 1fr);
  height: 100%;
  min-height: 560px;
}

section {
  padding: 12px 16px;
  min-height: 0;
}

.typing {
  border-right: 1px solid var(--line);
  display: grid;
  grid-template-rows: auto auto minmax(160px, 1fr) auto auto;
  gap: 8px;
}

header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}

.levels,
.tools {
  display: flex;
  flex-wrap: wrap;
  border: 1px solid var(--quiet);
  justify-self: start;
}

.levels button,
.tools button {
  padding: 4px 12px;
  background: #fff;
  font-size: 0.88rem;
}

.levels button[aria-pressed='true'],
.tools button[aria-pressed='true'] {
  background: var(--ink);
  color: #fff;
}

.facts summary {
  cursor: pointer;
}

.fields {
  display: grid;
  grid-template-columns: 1fr 0.9fr;
  gap: 8px;
  margin-top: 8px;
}

.fields > :nth-child(3) {
  grid-column: 1 / -1;
}

.drawn {
  display: grid;
  grid-template-rows: auto minmax(240px, 1fr) 218px;
  gap: 8px;
}

.dock {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
}

.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  border-bottom: 1px solid var(--quiet);
}

.tabs button {
  padding: 4px 12px;
  font-size: 0.88rem;
}

.tabs button[aria-selected='true'] {
  border-bottom: 3px solid var(--ink);
  font-weight: 600;
}

.sheet-of-tab {
  overflow: auto;
  padding: 8px 2px;
}

@media (max-width: 900px) {
  .house {
    grid-template-columns: 1fr;
    height: auto;
  }

  .typing {
    border-right: 0;
    grid-template-rows: auto auto auto auto auto;
  }

  .drawn {
    grid-template-rows: auto 360px auto;
  }

  .sheet-of-tab {
    overflow: visible;
  }
}
</style>

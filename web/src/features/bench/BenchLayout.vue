<script setup lang="ts">
import { useDebounceFn, useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, onMounted, provide, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api } from '../../api/client'
import type { StopName } from '../../api/types'
import { READER } from '../../shared/numbers'
import BothChanged from './BothChanged.vue'
import ChainPanel from './ChainPanel.vue'
import KeyHelp from './KeyHelp.vue'
import QuickFind from './QuickFind.vue'
import RoomLedger from './RoomLedger.vue'
import RouteRail from './RouteRail.vue'
import TopBar from './TopBar.vue'
import { useBench } from './useBench'
import { provideHome } from './useHome'
import { providePictures } from './usePictures'
import { useCoverage } from './useCoverage'
import { useUndo } from './useUndo'

const route = useRoute()
const router = useRouter()
const bench = useBench()
bench.reset()
const home = provideHome(String(route.params.home))
/** A page that was loaded anew goes on with the setup it was at: readings typed then would else belong to another. */
const lastSetup = useLocalStorage(`busy-hen setup ${home.id}`, '')
bench.setupId = lastSetup.value || undefined
providePictures(home)
useCoverage(home)

const find = ref(false)
const view = computed(() => home.view.value)
provide(READER, {
  home: home.id,
  decimals: computed(() => view.value?.decimals ?? 'point'),
  read: (numbers) =>
    answer(api.POST('/api/homes/{home}/numbers', { params: { path: { home: home.id } }, body: { numbers } })),
})
const hasHouse = computed(() => (view.value?.drawing.rooms.length ?? 0) > 0)
/** The chain belongs to a chosen room; on the map the dock holds it. */
const chained = computed(
  () => hasHouse.value && bench.roomId && bench.setupId && ['brief', 'compare'].includes(String(route.name)),
)

/** The drawing of the house, setups side by side, the run sheet, the drills and the watch take the place of the ledger. */
const ledgered = computed(() => !['house', 'compare', 'fit', 'drills', 'watch'].includes(String(route.name)))

onMounted(home.reload)
const forget = useDebounceFn(() => (home.note.value = ''), 6000)
watch(home.note, (now) => now && void forget())

/** The setup that was open before. */
let cameFrom: string | undefined

/** Keeps the choice of setup, level and room pointing at things that are there. */
watch(view, (now) => {
  if (!now) return
  const setups = now.home.setups
  const isThere = (id: string | undefined) => setups.some((setup) => setup.id === id)
  // What is fitted is what was decided on.
  const decided = route.name === 'fit' ? now.home.decision?.setup_id : undefined
  // Where the one that was open is gone, as after an undo, one is back at the one before it.
  if (!isThere(bench.setupId)) bench.setupId = [decided, cameFrom].find(isThere) ?? setups[0]?.id
  const devices = setups.find((setup) => setup.id === bench.setupId)?.devices ?? []
  if (!devices.some((device) => device.id === bench.deviceId)) bench.deviceId = undefined
  if (!now.home.brief.second_line && bench.kind === 'second_line') bench.kind = 'internet'
  const levels = now.home.house.levels
  if (!levels.some((level) => level.id === bench.levelId)) bench.levelId = levels[0]?.id
  if (!now.drawing.rooms.some((room) => room.room_id === bench.roomId)) bench.roomId = undefined
})

watch(
  () => bench.setupId,
  (now, before) => {
    lastSetup.value = now ?? ''
    cameFrom = before
  },
)

const { undo, redo } = useUndo(home)

/** Told before nothing more can be added. */
const full = computed(() => {
  const holds = view.value?.holds
  if (!holds || holds.bytes < 0.8 * holds.bytes_most) return ''
  const [now, most] = [holds.bytes, holds.bytes_most].map((own) => Math.round(own / 2 ** 20))
  return `This home takes ${now} of ${most} MB. At ${most} MB nothing can be added: save a copy, then delete monitors, pictures or rounds that you don’t need.`
})

function go(stop: StopName) {
  void router.push({ name: stop, params: { home: home.id } })
}

/** The storey above or below, by itself; past the ends all of them again. */
function stepStorey(by: number) {
  const levels = view.value?.drawing.levels ?? []
  const at = levels.findIndex((level) => level.level_id === bench.enlarged)
  const next = at < 0 ? (by > 0 ? 0 : levels.length - 1) : at + by
  bench.enlarged = levels[next]?.level_id
}

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const target = event.target as HTMLElement
  const typing = target.closest('input, textarea, select, [contenteditable], [role=combobox], [role=listbox]')
  const command = event.ctrlKey || event.metaKey
  if (command && event.key.toLowerCase() === 'k') {
    event.preventDefault()
    find.value = true
    return
  }
  if (target.closest('[role=dialog]')) return
  // In a field of text, undo is the text's own; a list has none, and the browser would take what was typed elsewhere.
  if (
    command &&
    event.key.toLowerCase() === 'z' &&
    !target.closest('input:read-write:not([inputmode=none]), textarea')
  ) {
    event.preventDefault()
    void (event.shiftKey ? redo() : undo())
    return
  }
  if (typing) return
  if (command || event.altKey) return
  if (event.key === 'Escape') return bench.closeOne()
  if (event.key === '?') bench.keysShown = !bench.keysShown
  if (!bench.keysOn) return
  const stop = view.value?.route[Number(event.key) - 1]
  if (stop) return go(stop.name)
  const setup = view.value?.home.setups.find((own) => own.letter === event.key)
  if (setup) {
    bench.setupId = setup.id
    return
  }
  const keys: Record<string, () => void> = {
    PageUp: () => stepStorey(1),
    PageDown: () => stepStorey(-1),
    a: () => (bench.kitOut = !bench.kitOut),
    d: () => (bench.dockUp = !bench.dockUp),
    m: () => (bench.showMeasured = !bench.showMeasured),
    t: () => void router.push({ name: 'rounds', params: { home: home.id }, query: { test: '1' } }),
  }
  const act = keys[event.key]
  if (!act || (event.key.startsWith('Page') && route.name !== 'setups')) return
  event.preventDefault()
  act()
})
</script>

<template>
  <div class="bench" :class="{ keys: bench.keysShown }">
    <TopBar
      :view="view"
      @undo="undo"
      @redo="redo"
      @find="find = true"
      @help="bench.keysShown = !bench.keysShown"
    />
    <RouteRail :stops="view?.route ?? []" :home-id="home.id" />
    <main class="centre">
      <p v-if="home.problem.value" class="note bad problem" role="alert">
        {{ home.problem.value }}
        <button type="button" aria-label="Close this message" @click="home.problem.value = ''">Close</button>
      </p>
      <p v-if="home.note.value" class="note undone" role="status" aria-label="Undone">
        {{ home.note.value }}
        <button type="button" aria-label="Put this note away" @click="home.note.value = ''">Close</button>
      </p>
      <p v-if="full" class="note undone" role="status" aria-label="Room left">{{ full }}</p>
      <div class="stage">
        <router-view v-if="view" />
        <p v-else-if="!home.problem.value" class="page quiet">Opening the home…</p>
      </div>
      <ChainPanel v-if="chained" class="chain" />
    </main>
    <RoomLedger v-if="view && hasHouse && ledgered" :view="view" />
    <BothChanged />
    <KeyHelp v-if="bench.keysShown" />
    <QuickFind v-if="view" v-model="find" :view="view" />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template:
    'top top top' 52px
    'rail centre ledger' minmax(0, 1fr) / auto minmax(0, 1fr) auto;
  height: 100vh;
}

.centre {
  grid-area: centre;
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.stage {
  /* Holds what is hidden for the eye, which would stretch the page itself. */
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.chain {
  border-top: 1px solid var(--line);
  background: #fff;
  padding: 10px 16px 12px;
}

.problem,
.undone {
  margin: 8px 16px;
  display: flex;
  justify-content: space-between;
  gap: 12px;
}

.problem button,
.undone button {
  text-decoration: underline;
}

@media (max-width: 900px) {
  .bench {
    display: flex;
    flex-direction: column;
    height: auto;
    min-height: 100vh;
  }

  .stage {
    overflow: visible;
  }
}
</style>

import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import type {
  Ask,
  CableRun,
  Doors,
  HandOverWalk,
  PointedPart,
  Layer,
  LedgerRow,
  CoverageView,
  Position,
  Situation,
  TestKind,
} from '../../api/types'

export type Dock =
  'findings' | 'limits' | 'device' | 'parts' | 'evening' | 'learnt' | 'zones' | 'walk' | 'series' | 'setup'

/** What the installer looks at: chosen setup, room and device, and the question that predictions answer. */
export const useBench = defineStore('bench', () => {
  const setupId = ref<string>()
  const roomId = ref<string>()
  const deviceId = ref<string>()
  const levelId = ref<string>()
  const client = ref('phone_ax')
  const situation = ref<Situation>('alone')
  const kind = ref<TestKind>('internet')
  const doors = ref<Doors>('as_left')
  const showMeasured = ref(false)
  /** What the map shows. */
  const layer = ref<Layer>({ kind: 'works' })
  /** The storey that alone is shown; all when none is. */
  const enlarged = ref<string>()
  /** What the dock under the map shows, and whether it is pulled up. */
  const dock = ref<Dock>('findings')
  const dockUp = ref(true)
  /** Whether a new setup is asked for. */
  const newSetup = ref(false)
  /** Whether single keys act (WCAG 2.1.4). */
  const keysOn = useLocalStorage('busy-hen keys', true)
  /** Whether keys are shown where they act. */
  const keysShown = ref(false)
  /** Whether the kit is pulled out over the map. */
  const kitOut = ref(false)
  /** The lit map and ledger as last answered. */
  const light = shallowRef<CoverageView>()
  /** Walls and doors that the map points out. */
  const pointed = shallowRef<PointedPart[]>([])
  /** Ways of cables that the map shows. */
  const ways = shallowRef<CableRun[]>([])
  /** The walk on which the map shows hand-overs. */
  const walk = shallowRef<HandOverWalk>()
  /** A device that is being dragged, at the place it has now. */
  const moved = shallowRef<{ device: string; at: Position }>()

  const ask = computed<Ask>(() => ({
    client: client.value,
    band: null,
    situation: situation.value,
    kind: kind.value,
    doors: doors.value,
  }))
  const ledger = computed<LedgerRow[]>(() => light.value?.ledger ?? [])

  /** Opens the settings of a device, also when it was the chosen one before. */
  function openDevice(id: string) {
    deviceId.value = id
    dock.value = 'device'
    dockUp.value = true
  }

  /** Opens what limits a room. */
  function openRoom(id: string) {
    roomId.value = id
    deviceId.value = undefined
    dock.value = 'limits'
    dockUp.value = true
  }

  /** Closes what was opened last of what lies over the rest. */
  function closeOne() {
    if (keysShown.value) keysShown.value = false
    else if (kitOut.value) kitOut.value = false
    else if (enlarged.value) enlarged.value = undefined
    else deviceId.value = roomId.value = undefined
  }

  function reset() {
    setupId.value = roomId.value = deviceId.value = levelId.value = enlarged.value = undefined
    layer.value = { kind: 'works' }
    light.value = undefined
    moved.value = undefined
    ways.value = []
    walk.value = undefined
    pointed.value = []
  }

  return {
    setupId,
    roomId,
    deviceId,
    levelId,
    client,
    situation,
    kind,
    doors,
    showMeasured,
    layer,
    enlarged,
    dock,
    dockUp,
    newSetup,
    keysOn,
    keysShown,
    kitOut,
    light,
    pointed,
    ways,
    walk,
    moved,
    ask,
    ledger,
    openDevice,
    openRoom,
    closeOne,
    reset,
  }
})

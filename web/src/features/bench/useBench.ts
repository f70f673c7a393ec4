import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import type { Ask, Doors, LedgerRow, Light, Position, Situation, TestKind } from '../../api/types'

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
  /** The lit map and ledger as last answered. */
  const light = shallowRef<Light>()
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

  function reset() {
    setupId.value = roomId.value = deviceId.value = levelId.value = undefined
    light.value = undefined
    moved.value = undefined
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
    light,
    moved,
    ask,
    ledger,
    reset,
  }
})

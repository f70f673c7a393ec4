import { watch } from 'vue'

import { answer, api } from '../../api/client'
import { useLatest } from '../../shared/useLatest'
import { useBench } from './useBench'
import type { HomeHandle } from './useHome'

/** Keeps map and ledger lit for what the installer looks at, also while a device is dragged. */
export function useCoverage(home: HomeHandle) {
  const bench = useBench()
  const relight = useLatest(async () => {
    const setup = bench.setupId
    if (!setup || !home.view.value?.drawing.rooms.length) {
      bench.light = undefined
      return
    }
    try {
      const light = await answer(
        api.POST('/api/homes/{home}/setups/{setup}/coverage', {
          params: { path: { home: home.id, setup } },
          body: { ask: bench.ask, layer: bench.layer, moved: bench.moved ?? null },
        }),
      )
      if (setup === bench.setupId) bench.light = light
    } catch (error) {
      home.failOfSetup(error)
    }
  })
  watch(
    () => [home.view.value, bench.setupId, bench.ask, bench.layer, bench.moved],
    () => relight(undefined),
    { immediate: true },
  )
}

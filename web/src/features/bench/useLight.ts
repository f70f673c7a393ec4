import { watch } from 'vue'

import { answer, api } from '../../api/client'
import { useLatest } from '../../shared/useLatest'
import { useBench } from './useBench'
import type { HomeHandle } from './useHome'

/** Side of a cell of the lit map, m. */
const CELL_M = 0.25

/** Keeps map and ledger lit for what the installer looks at, also while a device is dragged. */
export function useLight(home: HomeHandle) {
  const bench = useBench()
  const relight = useLatest(async () => {
    const setup = bench.setupId
    const level = bench.levelId
    if (!setup || !level) {
      bench.light = undefined
      return
    }
    try {
      const light = await answer(
        api.POST('/api/homes/{home}/setups/{setup}/light', {
          params: { path: { home: home.id, setup } },
          body: { ask: bench.ask, level_id: level, cell_m: CELL_M, moved: bench.moved ?? null },
        }),
      )
      if (setup === bench.setupId) bench.light = light
    } catch (error) {
      home.fail(error)
    }
  })
  watch(
    () => [home.view.value, bench.setupId, bench.levelId, bench.ask, bench.moved],
    () => relight(undefined),
    { immediate: true },
  )
}

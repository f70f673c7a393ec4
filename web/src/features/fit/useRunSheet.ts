import { useLocalStorage } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { SheetView, SheetStep, Tick, TickAsk, TickOutcome } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { useUnsent } from '../../shared/useUnsent'
import { useBench, useHome } from '../bench'

/**
 * The run sheet of the setup on the bench. What is ticked stands at once and is kept on this machine until it is stored: while one fits,
 * the network is often the very thing that is down.
 */
export function useRunSheet() {
  const home = useHome()
  const bench = useBench()
  const view = shallowRef<SheetView>()
  const by = useLocalStorage('busy-hen ticked by', '')
  const path = (setup: string) => ({ params: { path: { home: home.id, setup } } })

  const read = useLatest<void>(async () => {
    const setup = bench.setupId
    if (!setup) return
    try {
      const got = await answer(api.GET('/api/homes/{home}/setups/{setup}/sheet', path(setup)))
      if (setup === bench.setupId) view.value = got
    } catch (error) {
      home.fail(error)
    }
  })
  watch(
    () => bench.setupId,
    () => (view.value = undefined),
  )
  watch(
    () => [bench.setupId, home.view.value?.revision, home.view.value?.readings],
    () => read(undefined),
    { immediate: true },
  )

  const unsent = useUnsent<TickAsk & { setup: string }>(`busy-hen ticks ${home.id}`, async (own) => {
    const { setup, ...body } = own
    const got = await answer(api.PUT('/api/homes/{home}/setups/{setup}/ticks', { ...path(setup), body }))
    if (setup === bench.setupId) view.value = got
  })

  /** The newest word on each step, what waits to be sent first. */
  const words = computed(() => {
    const list = new Map<string, Tick>()
    for (const own of view.value?.ticks ?? []) list.set(own.step, own)
    for (const own of unsent.list.value.filter((one) => one.setup === bench.setupId)) {
      if (!own.outcome) list.delete(own.step)
      else list.set(own.step, { ...own, setup_id: own.setup, outcome: own.outcome, at: own.at ?? '' })
    }
    return list
  })

  function say(step: SheetStep, outcome: TickOutcome | null, note = '') {
    if (!bench.setupId) return
    const at = new Date().toISOString()
    unsent.add({ setup: bench.setupId, step: step.key, outcome, note, by: by.value, at })
  }

  return { view, words, say, by, unsent }
}

import { useDebounceFn } from '@vueuse/core'
import { type ShallowRef, shallowRef, watch } from 'vue'

import { answer, type Sent } from '../../api/client'
import { useLatest } from '../../shared/useLatest'
import { useBench } from './useBench'
import { useHome } from './useHome'

/** Something that is computed of the setup on the bench under its question, asked for anew once a change has settled. */
export function useOfSetup<T>(
  ask: (setup: string) => Sent<T>,
  /** What else it is asked by. */
  by: () => unknown = () => undefined,
): ShallowRef<T | undefined> {
  const home = useHome()
  const bench = useBench()
  const found = shallowRef<T>()
  const look = useLatest(async () => {
    const setup = bench.setupId
    if (!setup) return
    try {
      const got = await answer(ask(setup))
      if (setup === bench.setupId) found.value = got
    } catch (error) {
      home.failOfSetup(error)
    }
  })
  const lookSoon = useDebounceFn(() => look(undefined), 250)
  watch(
    () => bench.setupId,
    () => (found.value = undefined),
  )
  watch(
    () => [home.view.value, bench.setupId, bench.ask, by()],
    () => void lookSoon(),
    { immediate: true },
  )
  return found
}

import { useDebounceFn } from '@vueuse/core'
import { shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { Finding } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { useBench, useHome } from '../bench'

/** Findings of the setup on the bench, looked for anew once a change has settled. */
export function useFindings() {
  const home = useHome()
  const bench = useBench()
  const findings = shallowRef<Finding[]>()
  const look = useLatest(async () => {
    const setup = bench.setupId
    if (!setup) return
    try {
      const found = await answer(
        api.POST('/api/homes/{home}/setups/{setup}/findings', {
          params: { path: { home: home.id, setup } },
          body: { ask: bench.ask },
        }),
      )
      if (setup === bench.setupId) findings.value = found
    } catch (error) {
      home.fail(error)
    }
  })
  const lookSoon = useDebounceFn(() => look(undefined), 250)
  watch(
    () => bench.setupId,
    () => (findings.value = undefined),
  )
  watch(
    () => [home.view.value, bench.setupId, bench.ask],
    () => void lookSoon(),
    { immediate: true },
  )
  return findings
}

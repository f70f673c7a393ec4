import { api } from '../../api/client'
import type { Finding } from '../../api/types'
import { useBench, useHome, useOfSetup } from '../bench'

/** Findings of the setup on the bench. */
export function useFindings() {
  const home = useHome()
  const bench = useBench()
  return useOfSetup<Finding[]>((setup) =>
    api.POST('/api/homes/{home}/setups/{setup}/findings', {
      params: { path: { home: home.id, setup } },
      body: { ask: bench.ask },
    }),
  )
}

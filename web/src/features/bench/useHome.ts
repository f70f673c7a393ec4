import { inject, type InjectionKey, provide, ref, type Ref, shallowRef, type ShallowRef } from 'vue'

import { answer, api, ApiProblem } from '../../api/client'
import type { HomeView } from '../../api/types'

/** The home on the bench, and the way to change it. */
export interface HomeHandle {
  id: string
  view: ShallowRef<HomeView | undefined>
  /** What went wrong last, told until the next success. */
  problem: Ref<string>
  reload(): Promise<void>
  /** Runs a request that answers with the changed home; false when it was refused. */
  change(request: Promise<{ data?: HomeView; error?: unknown; response: Response }>): Promise<boolean>
  /** Tells a failure of anything else on the bench. */
  fail(error: unknown): void
}

const key: InjectionKey<HomeHandle> = Symbol('home')

/** Makes the home of this id the one on the bench. */
export function provideHome(id: string): HomeHandle {
  const view = shallowRef<HomeView>()
  const problem = ref('')

  function fail(error: unknown) {
    problem.value =
      error instanceof ApiProblem ? error.message : 'Something failed that should not; reload the page.'
    if (!(error instanceof ApiProblem)) console.error(error)
  }

  async function change(request: Parameters<HomeHandle['change']>[0]) {
    try {
      view.value = await answer(request)
      problem.value = ''
      return true
    } catch (error) {
      fail(error)
      return false
    }
  }

  const reload = async () => {
    await change(api.GET('/api/homes/{home}', { params: { path: { home: id } } }))
  }
  const handle = { id, view, problem, reload, change, fail }
  provide(key, handle)
  return handle
}

/** The home on the bench. */
export function useHome(): HomeHandle {
  const handle = inject(key)
  if (!handle) throw new Error('useHome works inside of the bench only')
  return handle
}

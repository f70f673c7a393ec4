import { createSharedComposable, useIntervalFn } from '@vueuse/core'
import { ref, shallowRef } from 'vue'

import { answer, api } from '../../api/client'
import type { FarEndView, NetworkView } from '../../api/types'

/** How often it is asked whether the bench has closed by itself, ms. */
const LOOK_MS = 20_000

/** Whether other machines reach the bench, and where internet tests go: the same on every view. */
export const useNetwork = createSharedComposable(() => {
  const network = shallowRef<NetworkView>()
  const farEnd = shallowRef<FarEndView>()
  /** Whether the dialog is shown. */
  const shown = ref(false)

  /** Looks anew. What can't be seen is told by whatever is asked next. */
  async function look() {
    try {
      network.value = await answer(api.GET('/api/network'))
      farEnd.value = await answer(api.GET('/api/far-end'))
    } catch {
      // The view that is on the screen says that the server does not answer, or that it is locked.
    }
  }

  useIntervalFn(() => network.value?.open && void look(), LOOK_MS)
  void look()
  return { network, farEnd, shown, look }
})

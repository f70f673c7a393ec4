import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

import { ApiProblem } from '../api/client'
import { useLatest } from './useLatest'

/** How often what could not be sent is tried again, ms. */
const AGAIN_MS = 2500

/**
 * Things that wait on this machine until the server has acknowledged them, in the order they were said: without an answer, refused or
 * locked out they wait on, and nothing is dropped but by `forget`. Sending one twice must be harmless.
 */
export function useUnsent<T>(shelf: string, send: (own: T) => Promise<unknown>) {
  const list = useLocalStorage<T[]>(shelf, [])
  /** Why the last of them did not go. */
  const problem = ref('')

  /** Whether it was an answer that said no. */
  const refused = ref(false)

  const go = useLatest<void>(async () => {
    problem.value = ''
    refused.value = false
    for (const own of [...list.value]) {
      try {
        await send(own)
      } catch (error) {
        problem.value = (error as Error).message
        if (error instanceof ApiProblem && error.code === 'offline') return
        refused.value = true
        continue
      }
      // Another page of this browser may have sent the same meanwhile, or added to the list.
      const sent = JSON.stringify(own)
      list.value = list.value.filter((one) => JSON.stringify(one) !== sent)
    }
  })
  useIntervalFn(() => list.value.length && go(undefined), AGAIN_MS, { immediateCallback: true })

  return {
    list,
    problem,
    refused,
    waiting: computed(() => list.value.length),
    add(own: T) {
      list.value = [...list.value, own]
      go(undefined)
    },
    forget() {
      list.value = []
      problem.value = ''
      refused.value = false
    },
  }
}

import { computed, ref, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { Confirmation, ToConfirm } from '../../api/types'
import type { HomeHandle } from '../bench/useHome'

/** What is to be seen before a setup is tested, and what was. */
export function useConfirm(home: HomeHandle, setup: () => string | undefined) {
  const told = shallowRef<ToConfirm>()
  const seen = ref<string[]>([])
  watch(
    setup,
    async (id) => {
      told.value = undefined
      seen.value = []
      if (!id) return
      try {
        const got = await answer(
          api.GET('/api/homes/{home}/setups/{setup}/to-confirm', {
            params: { path: { home: home.id, setup: id } },
          }),
        )
        if (setup() === id) told.value = got
      } catch (error) {
        home.fail(error)
      }
    },
    { immediate: true },
  )
  const list = computed<Confirmation[]>(
    () => told.value?.list.map((what) => ({ what, seen: seen.value.includes(what) })) ?? [],
  )
  return { told, seen, list }
}

export type Confirm = ReturnType<typeof useConfirm>

import { shallowRef, type ShallowRef } from 'vue'

import { answer, api } from '../api/client'
import type { Catalogue } from '../api/types'

const catalogue = shallowRef<Catalogue>()
let asked: Promise<void> | undefined

/** The lists that choices are offered from; they do not change while the program runs. */
export function useCatalogue(): ShallowRef<Catalogue | undefined> {
  asked ??= answer(api.GET('/api/catalogue')).then(
    (lists) => {
      catalogue.value = lists
    },
    () => {
      asked = undefined
    },
  )
  return catalogue
}

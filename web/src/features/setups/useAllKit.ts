import { computed } from 'vue'

import type { Kit } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { useHome } from '../bench'

/** All kit there is for this home: the installer's own first, then what ships. */
export function useAllKit() {
  const home = useHome()
  const catalogue = useCatalogue()
  return computed<Kit[]>(() => [...(home.view.value?.home.own_kit ?? []), ...(catalogue.value?.kit ?? [])])
}

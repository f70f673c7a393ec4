import { computed } from 'vue'

import type { MaterialUse } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'

export interface Choice {
  title: string
  value: string
  props: { subtitle: string }
}

/** Materials to choose from, each with what it takes. */
export function useMaterials() {
  const catalogue = useCatalogue()
  const of = (fits: (use: MaterialUse) => boolean) =>
    computed<Choice[]>(
      () =>
        catalogue.value?.materials
          .filter((material) => fits(material.category))
          .map((material) => ({
            title: material.name,
            value: material.key,
            props: { subtitle: `${material.loss_db[0]} dB at 2.4 GHz, ${material.loss_db[1]} dB at 5 GHz` },
          })) ?? [],
    )
  return {
    walls: of((use) => use !== 'floor'),
    floors: of((use) => use === 'floor'),
    fillings: of((use) => use === 'opening'),
  }
}

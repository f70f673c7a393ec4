import { computed } from 'vue'

import type { MaterialUse } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { useHome } from '../bench'

export interface Choice {
  title: string
  value: string
  props: { subtitle: string }
}

/** Materials to choose from, each with what it takes. */
export function useMaterials() {
  const catalogue = useCatalogue()
  const home = useHome()
  const of = (fits: (use: MaterialUse) => boolean) =>
    computed<Choice[]>(
      () =>
        catalogue.value?.materials
          .filter((material) => fits(material.category))
          .map((material) => ({
            title: home.view.value?.home.units === 'ft' ? material.name_in_inches : material.name,
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

import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'

import type { RunDetails } from '../api/types'

type OnEarth = NonNullable<RunDetails['walked']>['from']

/** Where the phone is, where the browser may know it: only trusted addresses are told. */
export function useWhere(round: () => string) {
  const possible = window.isSecureContext && 'geolocation' in navigator
  const begun = useLocalStorage<{ round: string; from: OnEarth } | null>('busy-hen phone began', null, {
    serializer: { read: JSON.parse, write: JSON.stringify },
  })
  /** How far off the phone may be, m. */
  const within = ref<number>()
  const problem = ref('')

  function here(): Promise<OnEarth | undefined> {
    problem.value = ''
    return new Promise((done) =>
      navigator.geolocation.getCurrentPosition(
        ({ coords }) => {
          within.value = coords.accuracy
          done({ latitude: coords.latitude, longitude: coords.longitude })
        },
        () => {
          problem.value = 'This phone does not say where it is; type the distance or pace it.'
          done(undefined)
        },
        { enableHighAccuracy: true, maximumAge: 0, timeout: 15_000 },
      ),
    )
  }

  async function begin() {
    const from = await here()
    if (from) begun.value = { round: round(), from }
  }

  /** From where to where one has walked; nothing when either is not known. */
  async function walked(): Promise<RunDetails['walked']> {
    if (begun.value?.round !== round()) return null
    const to = await here()
    return to ? { from: begun.value.from, to } : null
  }

  return { possible, begun, within, problem, begin, walked }
}

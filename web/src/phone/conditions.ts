import { useLocalStorage } from '@vueuse/core'
import { computed, type ShallowRef } from 'vue'

import type { Band, Doors, PhoneView, RunDetails, Situation, TestKind, Under } from '../api/types'

/** What stays until it is changed, and what goes with one spot only. */
interface Now {
  round: string
  band: Band | null
  doors: Doors
  situation: Situation
  serving: string | null
  /** What tests: empty for this page, else the name of another test whose figures are typed in. */
  tool: string
  down: string
  up: string
  idle: string
  reach: TestKind
  spot: string
  signal: string
  link: string
  kit: RunDetails['kit_status'] | null
  note: string
}

const CLASS = 'busy-hen phone class'
const NOW = 'busy-hen phone conditions'

/** The conditions that this phone tests under: those of the round until one is changed, kept through a reload. */
export function useConditions(view: ShallowRef<PhoneView | undefined>) {
  /** The phone's class, asked once and remembered: what a browser says of its device is only a hint. */
  const client = useLocalStorage(CLASS, '')
  /** Which limit of data holds, of those that are offered. */
  const limit = useLocalStorage('busy-hen phone limit', 0)
  const kept = useLocalStorage<Now | null>(NOW, null, {
    serializer: { read: JSON.parse, write: JSON.stringify },
  })

  const fresh = (own: PhoneView): Now => ({
    round: own.round_id,
    band: own.under.band ?? null,
    doors: own.under.doors,
    situation: own.under.situation,
    serving: null,
    tool: '',
    down: '',
    up: '',
    idle: '',
    reach: 'internet',
    spot: '',
    signal: '',
    link: '',
    kit: null,
    note: '',
  })
  const now = computed(() => {
    const own = view.value
    if (!own) return undefined
    // What was kept by an older page may lack what came later.
    return kept.value?.round === own.round_id ? { ...fresh(own), ...kept.value } : fresh(own)
  })

  function change(part: Partial<Now>) {
    if (now.value) kept.value = { ...now.value, ...part }
  }

  /** What was seen at one spot does not hold at the next. */
  function arrive(spot: string) {
    if (now.value && now.value.spot !== spot)
      change({ spot, signal: '', link: '', note: '', kit: null, serving: null, down: '', up: '', idle: '' })
  }

  const known = computed(() => view.value?.clients.some((own) => own.key === client.value) ?? false)
  const bands = computed(() => view.value?.clients.find((own) => own.key === client.value)?.bands ?? [])
  const under = computed<Under | undefined>(() => {
    const own = view.value
    if (!own || !now.value) return undefined
    const band = now.value.band && bands.value.includes(now.value.band) ? now.value.band : null
    return {
      ...own.under,
      client: known.value ? client.value : own.under.client,
      band,
      doors: now.value.doors,
      situation: now.value.situation,
    }
  })

  /** What goes with a run that is taken now: figures as they were typed, read by the bench. */
  function details(): RunDetails {
    const own = now.value
    return {
      under: under.value,
      band: under.value?.band ?? null,
      serving: own?.serving ?? null,
      signal_dbm: own?.signal.trim() || null,
      link_rate_mbps: own?.link.trim() || null,
      kit_status: own?.kit ?? null,
      note: own?.note || null,
    }
  }

  return { client, limit, known, bands, now, under, change, arrive, details }
}

export type Conditions = ReturnType<typeof useConditions>

import { useIntervalFn, useLocalStorage, useNow } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { computed, ref } from 'vue'

import { answer, api } from '../../api/client'
import type { Drill, Drilled, Failure, Sight } from '../../api/types'
import { rest } from '../../shared/line'
import { useLatest } from '../../shared/useLatest'
import { useUnsent } from '../../shared/useUnsent'
import { useBench, useHome, useOfSetup } from '../bench'
import { useListening } from './useListening'

/** How often a device is knocked at while a drill runs, ms: well under the half second that a mark is good to. */
const KNOCK_MS = 150

/** How long the end of a drill waits for the bench to judge what was heard, ms. */
const ENDS_MS = 1500

/**
 * The drills of the setup on the bench, and the one that runs. What is marked is kept on this machine at once: a drill takes the network
 * away, and a page that is loaded anew in the middle of one goes on timing.
 */
export function useDrills() {
  const home = useHome()
  const bench = useBench()
  const problem = ref('')
  const list = useOfSetup<Drilled[]>((setup) =>
    api.POST('/api/homes/{home}/setups/{setup}/drills', {
      params: { path: { home: home.id, setup } },
      body: { ask: bench.ask },
    }),
  )
  const running = useLocalStorage<Drill | null>(`busy-hen drill ${home.id}`, null, {
    serializer: { read: (text) => JSON.parse(text) as Drill | null, write: (own) => JSON.stringify(own) },
  })
  /** What the drill that runs does, in words: kept beside it, so that a page loaded anew stands still under the thumb at once. */
  const doing = useLocalStorage(`busy-hen drill ${home.id} in words`, '')
  const unsent = useUnsent<Drill>(`busy-hen drills ${home.id}`, (body) =>
    answer(api.POST('/api/homes/{home}/drills', { params: { path: { home: home.id } }, body })),
  )
  /** Devices that a failure takes, as far as they can be knocked at. */
  function devicesOf(failure: Failure, setupId: string | undefined): string[] {
    const devices = home.view.value?.home.setups.find((own) => own.id === setupId)?.devices ?? []
    if ('device' in failure) return [failure.device]
    if (failure.what === 'line') return []
    return devices.filter((own) => failure.what === 'everything' || own.uplink).map((own) => own.id)
  }

  /** Address of each device that is knocked at. */
  const addresses = useLocalStorage<Record<string, string>>(`busy-hen addresses ${home.id}`, {})
  const now = useNow({ interval: 100 })
  const elapsed = computed(() =>
    running.value ? Math.max(0, now.value.getTime() - Date.parse(running.value.begun)) / 1000 : 0,
  )

  /** Whether this page holds a call and a download of its own meanwhile. */
  const listens = useLocalStorage('busy-hen drills listen', true)
  const listening = useListening(home.id, running, listens, now)

  function begin(failure: Failure, words: string) {
    if (!bench.setupId) return
    doing.value = words
    const begun = new Date().toISOString()
    running.value = {
      id: newId(),
      setup_id: bench.setupId,
      failure,
      begun,
      marks: [],
      stopped: false,
      note: '',
    }
    answers.value = {}
  }

  function mark(seen: Sight) {
    const own = running.value
    if (!own) return
    const after_ms = Math.max(0, Date.now() - Date.parse(own.begun))
    const marks = [...own.marks, { seen, after_ms, by_probe: false }].sort((a, b) => a.after_ms - b.after_ms)
    running.value = { ...own, marks }
  }

  function unmark(index: number) {
    const own = running.value
    if (!own) return
    const gone = own.marks[index]
    if (gone?.by_probe) listening.deny(gone)
    running.value = { ...own, marks: own.marks.filter((_, at) => at !== index) }
  }

  /** What the knocking saw last of each device; nothing before its first answer. */
  const answers = ref<Record<string, boolean>>({})
  const knocked = computed(() =>
    running.value
      ? devicesOf(running.value.failure, running.value.setup_id).filter((id) => addresses.value[id]?.trim())
      : [],
  )
  const knock = useLatest<void>(async () => {
    const at = Date.now()
    await Promise.all(knocked.value.map((id) => knockAt(id, at)))
  })

  async function knockAt(id: string, at: number) {
    try {
      const seen = await answer(api.POST('/api/probe', { body: { address: addresses.value[id] ?? '' } }))
      const before = answers.value[id]
      if (!running.value || seen.answers === before) return
      answers.value = { ...answers.value, [id]: seen.answers }
      problem.value = ''
      const at_ms = Math.max(0, at - Date.parse(running.value.begun))
      listening.knocked({ device_id: id, at_ms, answers: seen.answers })
    } catch (error) {
      problem.value = (error as Error).message
    }
  }
  useIntervalFn(() => knock(undefined), KNOCK_MS)

  async function end(stopped: boolean, note: string) {
    // What was heard last still counts, if the bench answers.
    await Promise.race([listening.mark(), rest(ENDS_MS)])
    const own = running.value
    if (!own) return
    unsent.add({ ...own, stopped, note: note.trim() })
    running.value = null
  }

  async function remove(drill: string) {
    try {
      await answer(api.DELETE('/api/drills/{drill}', { params: { path: { drill } } }))
    } catch (error) {
      problem.value = (error as Error).message
    }
  }

  return {
    list,
    listens,
    listening,
    running,
    doing,
    elapsed,
    answers,
    knocked,
    devicesOf,
    addresses,
    problem,
    begin,
    mark,
    unmark,
    end,
    remove,
    unsent,
  }
}

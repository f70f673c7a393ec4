import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'

import { answer, api } from '../../api/client'
import type { Drill, DrillMark, PingHeard, ListeningPlaces, RawStream } from '../../api/types'
import { useNewPolicy } from '../../shared/newPolicy'
import { useLatest } from '../../shared/useLatest'
import { cameFrom, listen, type Listening } from './listen'

/** How often what was heard is made marks of, ms; what a knock saw at once. */
const MARKED_MS = 3000

/**
 * What is heard while a drill runs: knocks of the bench, and a call and a download that this page holds, to the bench where the page is on
 * another machine, and beyond the line where a far end is known. It is judged by the bench as soon as that answers.
 */
export function useListening(home: string, running: Ref<Drill | null>, wanted: Ref<boolean>, now: Ref<Date>) {
  const places = shallowRef<ListeningPlaces>()
  const heard = shallowRef<{ within?: Listening; beyond?: Listening }>()
  const knocks = ref<PingHeard[]>([])
  /** Marks that somebody said are not so. */
  const denied = ref<string[]>([])
  const named = (mark: DrillMark) => JSON.stringify([mark.seen, mark.after_ms])
  let stop = new AbortController()

  /**
   * By which ways the page came, kept over a page loaded anew: what is the first line is known before anything is pulled, and never from
   * what carries in the middle of it.
   */
  const ways = useLocalStorage<RawStream['ways']>(`busy-hen drill ways ${home}`, [])

  const look = useLatest<void>(async () => {
    try {
      places.value = await answer(api.POST('/api/listening'))
    } catch {
      // Without an answer there is nothing to listen to yet.
      return
    }
    const far = places.value.far_end
    if (running.value || !far) return
    const address = await cameFrom({ origin: far.url, token: far.token })
    if (!running.value) ways.value = address ? [{ at_ms: 0, address }] : []
  })

  // A drill that runs is kept over a page loaded anew.
  useNewPolicy(
    () => places.value?.far_end?.url,
    () => false,
  )

  function end() {
    stop.abort()
    heard.value = undefined
  }

  watch(
    () => [running.value?.id, wanted.value, places.value] as const,
    ([drill, wanted, places], before) => {
      if (drill !== before?.[0]) {
        end()
        denied.value = []
        knocks.value = []
      }
      if (!wanted) end()
      if (!drill || !wanted || !places || heard.value) return
      stop = new AbortController()
      // Marks are counted by the wall clock at which it was pulled; from then on a steady one counts.
      const ahead = Date.now() - Date.parse(running.value!.begun) - performance.now()
      const clock = () => performance.now() + ahead
      const far = places.far_end
      heard.value = {
        within: places.bench_token
          ? listen({ origin: window.location.origin, token: places.bench_token }, clock, stop.signal)
          : undefined,
        beyond: far
          ? listen({ origin: far.url, token: far.token }, clock, stop.signal, ways.value)
          : undefined,
      }
    },
    { immediate: true },
  )
  watch(running, (own) => own && !places.value && look(undefined), { immediate: true })
  onScopeDispose(end)

  /** Puts what was heard among the marks; a mark that was pressed meanwhile is not lost. */
  async function mark() {
    const own = running.value
    const { within, beyond } = heard.value ?? {}
    if (!own || (!within && !beyond && !knocks.value.length)) return
    try {
      const marks = await answer(
        api.POST('/api/homes/{home}/setups/{setup}/drill-marks', {
          params: { path: { home, setup: own.setup_id } },
          body: {
            failure: own.failure,
            marks: own.marks,
            heard: { within: within?.raw ?? null, beyond: beyond?.raw ?? null, knocks: knocks.value },
          },
        }),
      )
      const still = running.value
      if (still?.id !== own.id || JSON.stringify(still.marks) !== JSON.stringify(own.marks)) return
      const so = (mark: DrillMark) => !mark.by_probe || !denied.value.includes(named(mark))
      running.value = { ...own, marks: marks.filter(so) }
    } catch {
      // It is tried again; what was heard is still there.
    }
  }
  const marked = useLatest<void>(mark)
  useIntervalFn(() => marked(undefined), MARKED_MS)

  function knocked(own: PingHeard) {
    knocks.value.push(own)
    marked(undefined)
  }

  /** How each place answers, in words. */
  const told = computed(() => {
    const elapsed = running.value ? now.value.getTime() - Date.parse(running.value.begun) : 0
    const of = (own: Listening | undefined, name: string) => {
      if (!own) return []
      const last = own.answered()
      if (last === undefined)
        return [`${name}: never connected so far, so it times nothing; press what you see.`]
      const ago = (elapsed - last) / 1000
      return [ago < 1 ? `${name}: answers.` : `${name}: silent for ${ago.toFixed(0)} s.`]
    }
    return [
      ...of(heard.value?.within, 'Call to the bench'),
      ...of(heard.value?.beyond, 'Call beyond the line'),
    ]
  })

  return { places, look, told, mark, knocked, deny: (own: DrillMark) => denied.value.push(named(own)) }
}

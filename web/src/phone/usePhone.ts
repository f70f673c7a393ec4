import { useEventListener, useIntervalFn } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { computed, ref, shallowRef } from 'vue'

import type { Beyond, PhoneKept, PhoneRun, PhoneView } from '../api/types'
import { kept, look, Refusal, send, token } from './link'
import { measureApart } from './apart'
import type { Phase } from './measure'
import { forget, save, unsent, type Unsent } from './unsent'

/** How often what is unsent is tried again, ms. */
const AGAIN_MS = 3000
/** Pause between two runs at one spot, ms. */
const BETWEEN_MS = 1500
/** Points of the live trace. */
const TRACE = 60

export interface Testing {
  spot: string
  /** Whether it goes beyond the line. */
  beyond: boolean
  phase: Phase
  rates: number[]
}

/** All that the phone does: shows the round, tests, keeps what it measured until the bench has it. */
export function usePhone() {
  const view = shallowRef<PhoneView | undefined>(kept())
  const waiting = shallowRef<Unsent[]>([])
  /** Whether some of them belong to a round that is not there. */
  const homeless = ref(false)
  /** Whether the bench answered when it was last asked. */
  const there = ref(true)
  const problem = ref('')
  const testing = shallowRef<Testing>()
  /** The run that was kept last. */
  const last = shallowRef<PhoneKept>()
  const chosen = ref<string>()
  const spot = computed(() => {
    const id = chosen.value ?? view.value?.next ?? view.value?.spots[0]?.spot_id
    return view.value?.spots.find((own) => own.spot_id === id)
  })
  let stop = new AbortController()
  let sending = false

  function refused(error: unknown) {
    const { code, message } = error as Refusal
    there.value = code !== undefined
    if (code !== undefined) problem.value = message
  }

  async function refresh() {
    try {
      view.value = await look()
      there.value = true
    } catch (error) {
      refused(error)
    }
  }

  /** Sends what waits, oldest first; what the bench refuses for good is told and not tried again. */
  async function sendAll() {
    if (sending || testing.value) return
    sending = true
    homeless.value = false
    let newest: PhoneKept | undefined
    try {
      for (const own of await unsent()) {
        try {
          newest = await send(own)
          await forget(own)
          there.value = true
        } catch (error) {
          refused(error)
          const { code } = error as Refusal
          if (code === undefined || code === 'internal' || code === 'full') break
          // A round that is gone may come back by an undo; only the person drops what was measured for it.
          if (code === 'not_paired' || code === 'not_found') homeless.value = true
          else await forget(own)
        }
      }
      waiting.value = await unsent()
      if (newest) {
        // The run and the spot it belongs to are told together, so that they agree.
        await refresh()
        last.value = newest
      }
    } finally {
      sending = false
    }
  }

  async function note(result: PhoneRun['result'], at: string, spotId: string) {
    await save({ token: token(), run: { id: newId(), spot_id: spotId, at, result } })
    waiting.value = await unsent()
  }

  async function runOnce(spotId: string, mostBytes: number) {
    const at = new Date().toISOString()
    const test = newId()
    stop = new AbortController()
    const change = (part: Partial<Testing>) => {
      if (testing.value) testing.value = { ...testing.value, ...part }
    }
    const watch = {
      phase: (phase: Phase) => change({ phase, rates: [] }),
      rate: (mbps: number) => change({ rates: [...(testing.value?.rates ?? []), mbps].slice(-TRACE) }),
    }
    testing.value = { spot: spotId, beyond: false, phase: 'waiting', rates: [] }
    const within = { origin: window.location.origin, token: token() }
    const raw = await measureApart({ id: test, to: within, mostBytes }, watch, stop.signal)
    const far = view.value?.far_end
    let beyond: Beyond | undefined
    // One press, both legs: beyond the line right after the one within the home.
    if (far && raw.interruptions.length === 0) {
      testing.value = { spot: spotId, beyond: true, phase: 'waiting', rates: [] }
      const place = { origin: far.url, token: far.token }
      beyond = { id: newId(), raw: await measureApart({ id: newId(), to: place, mostBytes }, watch, stop.signal) }
    }
    testing.value = undefined
    if (stop.signal.aborted) return false
    await note({ kind: 'tested', test, raw, beyond }, at, spotId)
    await sendAll()
    return [raw, beyond?.raw].every((own) => !own?.interruptions.length)
  }

  /** Runs tests at a spot until it has enough: one press a spot. */
  async function test(spotId: string, mostBytes: number) {
    if (testing.value) return
    problem.value = ''
    last.value = undefined
    chosen.value = spotId
    const awake = await navigator.wakeLock?.request('screen').catch(() => undefined)
    try {
      while ((await runOnce(spotId, mostBytes)) && !problem.value) {
        const own = view.value?.spots.find((one) => one.spot_id === spotId)
        if (!own || own.done || waiting.value.length > 0) break
        await new Promise((done) => setTimeout(done, BETWEEN_MS))
        if (stop.signal.aborted) break
      }
    } catch (error) {
      problem.value = (error as Error).message
    } finally {
      testing.value = undefined
      void awake?.release()
    }
  }

  /** Drops what can't be sent. */
  async function drop() {
    for (const own of await unsent()) await forget(own)
    waiting.value = []
    homeless.value = false
    problem.value = ''
  }

  async function noConnection(spotId: string) {
    problem.value = ''
    last.value = undefined
    chosen.value = spotId
    await note({ kind: 'no_connection' }, new Date().toISOString(), spotId)
    await sendAll()
  }

  useIntervalFn(() => {
    if (waiting.value.length > 0) void sendAll()
  }, AGAIN_MS)
  useEventListener(window, 'online', () => void sendAll())
  useEventListener(window, 'hashchange', () => {
    token()
    void refresh()
  })

  token()
  void (async () => {
    await refresh()
    await sendAll()
  })()

  return {
    view,
    waiting,
    homeless,
    drop,
    there,
    problem,
    testing,
    last,
    spot,
    chosen,
    test,
    noConnection,
    stop: () => stop.abort(),
    refresh,
  }
}

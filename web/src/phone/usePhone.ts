import { useEventListener, useIntervalFn } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { computed, ref, shallowRef, watch } from 'vue'

import type { Beyond, PhoneKept, PhoneRun, PhoneView, RunDetails, TestKind } from '../api/types'
import { apart } from './apart'
import { useConditions } from './conditions'
import { gather } from '../shared/line'
import { useNewPolicy } from '../shared/newPolicy'
import { keepView, kept, look, type Refusal, seenFrom, send, token } from './link'
import type { Phase } from './measure'
import { small } from './pictures'
import { useSending } from './useSending'
import type { OnTheWay } from './walk'

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
  phase: Phase | 'gathering'
  rates: number[]
}

/** All that the phone does: shows the round, tests, keeps what it measured until the bench has it. */
export function usePhone() {
  const view = shallowRef<PhoneView | undefined>(kept())
  const conditions = useConditions(view)
  const problem = ref('')
  const testing = shallowRef<Testing>()
  /** The run that was kept last. */
  const last = shallowRef<PhoneKept>()
  const chosen = ref<string>()
  const spot = computed(() => {
    const id = chosen.value ?? view.value?.next ?? view.value?.spots[0]?.spot_id
    return view.value?.spots.find((own) => own.spot_id === id)
  })
  /** Whether the time of the code that this phone was paired by is over. */
  const expired = ref(false)
  const sender = useSending({
    testing,
    problem,
    taken: async (kept) => {
      await refresh()
      last.value = kept
    },
  })
  const { waiting, pictures, there, sendAll } = sender
  let stop = new AbortController()
  /** Also between two runs at one spot, when nothing is on the screen. */
  const busy = ref(false)
  let say: (word: OnTheWay) => void = () => {}
  useNewPolicy(
    () => view.value?.far_end?.url,
    () => busy.value,
  )

  let looks = 0
  async function refresh() {
    const turn = ++looks
    try {
      const got = await look(conditions.under.value)
      // A late answer never replaces a newer one.
      if (turn === looks) view.value = got
      there.value = true
      expired.value = false
    } catch (error) {
      const { code, message } = error as Refusal
      there.value = code !== undefined
      if (code === undefined) return
      expired.value = code === 'pairing_over'
      // With a view of the round, that its code has ended is told where one would test.
      if (!expired.value || !view.value) problem.value = message
      if (!expired.value) return
      // The far end is no longer this phone's to know.
      if (view.value) keepView((view.value = { ...view.value, far_end: null }))
    }
  }

  /** Keeps a picture of a spot or a device, and sends it when the bench answers; false when it can't be kept. */
  async function takePicture(file: File, shows: { spot?: string; device?: string }, words: string) {
    problem.value = ''
    const at = new Date().toISOString()
    try {
      const jpeg = await small(file)
      await sender.keepPicture({ token: token(), id: newId(), ...shows, at, note: words, jpeg })
    } catch {
      problem.value = 'This phone can’t keep the picture; its storage is full or switched off.'
      return false
    }
    await sendAll()
    return problem.value === ''
  }

  async function note(result: PhoneRun['result'], at: string, spotId: string, details: RunDetails) {
    // Plain values alone can be kept.
    const plain = JSON.parse(JSON.stringify(details)) as RunDetails
    const own = { token: token(), run: { id: newId(), spot_id: spotId, at, result, details: plain } }
    if (!(await sender.keep(own))) {
      // Storage that is full or switched off: what was measured goes to the bench at once, or its loss is told.
      try {
        const kept = await send(own)
        await refresh()
        last.value = kept
      } catch {
        problem.value =
          'This phone can’t keep runs, its storage is full or switched off, and the bench does not answer: this one is lost.'
      }
    }
    // A note goes with one run.
    conditions.change({ note: '' })
    return own.run.id
  }

  const within = () => ({ origin: window.location.origin, token: token() })
  const farEnd = () => {
    const far = view.value?.far_end
    return far ? { origin: far.url, token: far.token } : undefined
  }

  const change = (part: Partial<Testing>) => {
    if (testing.value) testing.value = { ...testing.value, ...part }
  }
  const eye = {
    phase: (phase: Phase) => change({ phase, rates: [] }),
    rate: (mbps: number) => change({ rates: [...(testing.value?.rates ?? []), mbps].slice(-TRACE) }),
  }

  /** Something that is watched on the screen and may be stopped; nothing when another is under way. */
  async function under(spotId: string, work: () => Promise<void>) {
    if (busy.value) return
    busy.value = true
    problem.value = ''
    last.value = undefined
    chosen.value = spotId
    conditions.arrive(spotId)
    stop = new AbortController()
    const awake = await navigator.wakeLock?.request('screen').catch(() => undefined)
    testing.value = { spot: spotId, beyond: false, phase: 'waiting', rates: [] }
    try {
      await work()
    } catch (error) {
      problem.value = (error as Error).message
    } finally {
      testing.value = undefined
      busy.value = false
      void awake?.release()
    }
  }

  async function runOnce(spotId: string, mostBytes: number, more: RunDetails) {
    const at = new Date().toISOString()
    const test = newId()
    const turn = more.together ? 'beside' : 'alone'
    testing.value = { spot: spotId, beyond: false, phase: 'waiting', rates: [] }
    const raw = await apart('speed', { id: test, to: within(), mostBytes, turn }, eye, stop.signal)
    const far = farEnd()
    let beyond: Beyond | undefined
    // One press, both legs: beyond the line right after the one within the home.
    if (far && raw.interruptions.length === 0) {
      testing.value = { spot: spotId, beyond: true, phase: 'waiting', rates: [] }
      const job = { id: newId(), to: far, mostBytes, turn } as const
      const raw = await apart('speed', job, eye, stop.signal)
      beyond = { id: newId(), raw, seen_from: await seenFrom(far) }
    }
    testing.value = undefined
    if (stop.signal.aborted) return false
    const details = { ...conditions.details(), ...more }
    const id = await note({ kind: 'tested', test, raw, beyond }, at, spotId, details)
    await sendAll()
    // What waits of before holds up no other; what waits of now means that the bench is out of reach.
    const sent = !waiting.value.some((own) => own.run.id === id)
    return sent && [raw, beyond?.raw].every((own) => !own?.interruptions.length)
  }

  /** Runs tests at a spot until it has enough: one press a spot. At a mark, one run a press. */
  const test = (spotId: string, mostBytes: number, more: RunDetails = {}) =>
    under(spotId, async () => {
      while ((await runOnce(spotId, mostBytes, more)) && !problem.value && !more.mark) {
        const own = view.value?.spots.find((one) => one.spot_id === spotId)
        if (!own || own.done) break
        await new Promise((done) => setTimeout(done, BETWEEN_MS))
        if (stop.signal.aborted) break
      }
    })

  /** Begins at the same moment as other phones. */
  const rush = (spotId: string, mostBytes: number) =>
    under(spotId, async () => {
      testing.value = { spot: spotId, beyond: false, phase: 'gathering', rates: [] }
      const tell = (ms: number) => change({ rates: [ms / 1000] })
      const together = await gather(within(), newId(), tell, stop.signal)
      if (stop.signal.aborted) return
      if (together) await runOnce(spotId, mostBytes, { together })
      else problem.value = 'The bench did not answer; nothing was begun.'
    })

  /** Plays the stand-in for a film, or holds that for a call. */
  const check = (spotId: string, what: 'film' | 'call') =>
    under(spotId, async () => {
      const at = new Date().toISOString()
      const far = farEnd()
      const reach = far ? 'internet' : 'local'
      const mbps = (what === 'film' ? view.value?.film_mbps : view.value?.call_mbps) ?? 0
      const job = { id: newId(), to: far ?? within(), mbps }
      const result: PhoneRun['result'] =
        what === 'film'
          ? { kind: 'film', reach, raw: await apart('film', job, eye, stop.signal) }
          : { kind: 'call', reach, raw: await apart('call', job, eye, stop.signal) }
      testing.value = undefined
      if (stop.signal.aborted) return
      await note(result, at, spotId, conditions.details())
      await sendAll()
    })

  /** Watches the delay from here until the walk is over. */
  const walk = (spotId: string) =>
    under(spotId, async () => {
      const at = new Date().toISOString()
      const talk = (to: typeof say) => (say = to)
      const raw = await apart('walk', { to: within(), spot: spotId }, eye, stop.signal, talk)
      testing.value = undefined
      if (stop.signal.aborted) return
      await note({ kind: 'walked', raw }, at, spotId, conditions.details())
      await sendAll()
    })

  /** Keeps what needs no test: no connection, what is heard, or that a spot is passed over. */
  async function keep(kind: 'no_connection' | 'heard' | 'skipped', spotId: string, more: RunDetails = {}) {
    // Whoever keeps something else goes on from here; no further run is begun.
    stop.abort()
    problem.value = ''
    last.value = undefined
    chosen.value = kind === 'skipped' ? undefined : spotId
    conditions.arrive(spotId)
    await note({ kind }, new Date().toISOString(), spotId, { ...conditions.details(), ...more })
    await sendAll()
  }

  /** Keeps what another test showed, typed in. */
  async function shown(
    spotId: string,
    { down, up, idle }: { down: string; up: string; idle: string | null },
    reach: TestKind,
    more: RunDetails = {},
  ) {
    const now = conditions.under.value
    if (!now || busy.value) return
    problem.value = ''
    last.value = undefined
    chosen.value = spotId
    const tool = conditions.now.value?.tool.trim() ?? ''
    const details = { ...conditions.details(), ...more, under: { ...now, kind: reach, tool } }
    const result = { kind: 'shown', down_mbps: down, up_mbps: up, idle_ms: idle, reach } as const
    await note(result, new Date().toISOString(), spotId, details)
    // The figures go with one run, the tool stays.
    conditions.change({ down: '', up: '', idle: '' })
    await sendAll()
  }

  useIntervalFn(() => {
    if (waiting.value.length + pictures.value.length > 0) void sendAll()
  }, AGAIN_MS)
  useEventListener(window, 'online', () => void sendAll())
  useEventListener(window, 'hashchange', () => {
    token()
    void refresh()
  })
  watch(
    () => JSON.stringify(conditions.under.value),
    (now, before) => {
      if (before !== undefined && now !== before) void refresh()
    },
  )

  token()
  void (async () => {
    await refresh()
    await sendAll()
  })()

  return {
    view,
    conditions,
    ...sender,
    takePicture,
    shown,
    expired,
    problem,
    testing,
    busy,
    last,
    spot,
    chosen,
    test,
    rush,
    check,
    walk,
    say: (word: OnTheWay) => say(word),
    keep,
    stop: () => stop.abort(),
    refresh,
  }
}

export type Phone = ReturnType<typeof usePhone>

import { useEventListener, useIntervalFn } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { computed, ref, shallowRef, watch } from 'vue'

import type { Beyond, PhoneKept, PhoneRun, PhoneView, RunDetails, TestKind } from '../api/types'
import { apart } from './apart'
import { useConditions } from './conditions'
import { gather } from '../shared/line'
import { kept, look, Refusal, seenFrom, send, sendPicture, token } from './link'
import type { Phase } from './measure'
import { forgetPicture, savePicture, small, type UnsentPicture, unsentPictures } from './pictures'
import { forget, save, unsent, type Unsent } from './unsent'
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
  const waiting = shallowRef<Unsent[]>([])
  const pictures = shallowRef<UnsentPicture[]>([])
  /** What the bench asks about a typed reading before it keeps it. */
  const question = shallowRef<{ own: Unsent; words: string }>()
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
  /** Also between two runs at one spot, when nothing is on the screen. */
  const busy = ref(false)
  let say: (word: OnTheWay) => void = () => {}

  function refused(error: unknown) {
    const { code, message } = error as Refusal
    there.value = code !== undefined
    if (code !== undefined) problem.value = message
  }

  let looks = 0
  async function refresh() {
    const turn = ++looks
    try {
      const got = await look(conditions.under.value)
      // A late answer never replaces a newer one.
      if (turn === looks) view.value = got
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
        if (own.run.id === question.value?.own.run.id) continue
        try {
          newest = await send(own)
          await forget(own)
          there.value = true
        } catch (error) {
          refused(error)
          const { code, message } = error as Refusal
          if (code === undefined || code === 'internal' || code === 'full') break
          if (code === 'over_ceiling') {
            question.value = { own, words: message }
            problem.value = ''
            continue
          }
          // A round that is gone may come back by an undo; only the person drops what was measured for it.
          if (code === 'not_paired' || code === 'not_found') homeless.value = true
          else await forget(own)
        }
      }
      await sendPictures()
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

  async function sendPictures() {
    for (const own of await unsentPictures()) {
      try {
        await sendPicture(own)
        await forgetPicture(own)
        there.value = true
      } catch (error) {
        refused(error)
        const { code } = error as Refusal
        if (code === 'not_paired' || code === 'not_found') homeless.value = true
        // Only what will never be a picture is dropped; the rest waits for the bench, or for room there.
        else if (code === 'no_picture' || code === 'faults' || code === 'too_large') await forgetPicture(own)
        else break
      }
    }
    pictures.value = await unsentPictures()
  }

  /** Keeps a picture of a spot or a device, and sends it when the bench answers; false when it can't be kept. */
  async function takePicture(file: File, shows: { spot?: string; device?: string }, words: string) {
    problem.value = ''
    const at = new Date().toISOString()
    try {
      const jpeg = await small(file)
      await savePicture({ token: token(), id: newId(), ...shows, at, note: words, jpeg })
    } catch {
      problem.value = 'This phone can’t keep the picture; its storage is full or switched off.'
      return false
    }
    pictures.value = await unsentPictures()
    await sendAll()
    return problem.value === ''
  }

  /** Answers what the bench asked about a typed reading. */
  async function answer(right: boolean) {
    const asked = question.value?.own
    question.value = undefined
    if (!asked) return
    if (right && asked.run.result.kind === 'shown') {
      const result = { ...asked.run.result, over_ceiling_confirmed: true }
      await save({ ...asked, run: { ...asked.run, result } })
    } else await forget(asked)
    waiting.value = await unsent()
    await sendAll()
  }

  async function note(result: PhoneRun['result'], at: string, spotId: string, details: RunDetails) {
    // Plain values alone can be kept.
    const plain = JSON.parse(JSON.stringify(details)) as RunDetails
    const own = { token: token(), run: { id: newId(), spot_id: spotId, at, result, details: plain } }
    try {
      await save(own)
    } catch {
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
    waiting.value = await unsent()
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
    await note({ kind: 'tested', test, raw, beyond }, at, spotId, { ...conditions.details(), ...more })
    await sendAll()
    return [raw, beyond?.raw].every((own) => !own?.interruptions.length)
  }

  /** Runs tests at a spot until it has enough: one press a spot. At a mark, one run a press. */
  const test = (spotId: string, mostBytes: number, more: RunDetails = {}) =>
    under(spotId, async () => {
      while ((await runOnce(spotId, mostBytes, more)) && !problem.value && !more.mark) {
        const own = view.value?.spots.find((one) => one.spot_id === spotId)
        if (!own || own.done || waiting.value.length > 0) break
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

  /** Drops what can't be sent. */
  async function drop() {
    for (const own of await unsent()) await forget(own)
    for (const own of await unsentPictures()) await forgetPicture(own)
    waiting.value = []
    pictures.value = []
    homeless.value = false
    problem.value = ''
  }

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
    { down, up, idle }: { down: number; up: number; idle: number | null },
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
    waiting,
    pictures,
    takePicture,
    question,
    answer,
    shown,
    homeless,
    drop,
    there,
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

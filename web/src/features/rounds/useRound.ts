import { useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch, type ShallowRef } from 'vue'

import { answer, api } from '../../api/client'
import type { Mishap, NewRun, RoundView } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import type { HomeHandle } from '../bench/useHome'

/** How often a round that is being walked is read again, ms. */
const WALK_PAUSE_MS = 400

export interface RoundHandle {
  view: ShallowRef<RoundView | undefined>
  reload(): Promise<void>
  /** Sends a run in; the server's refusal is thrown. */
  add(run: NewRun, confirmed: boolean): Promise<void>
  /** Puts right what was typed wrong; what it said before is kept. */
  correct(run: string, outcome: NewRun['outcome'], confirmed: boolean): Promise<void>
  voidRun(run: string, reason: string | null): Promise<void>
  walk(seed: number, mishaps: Mishap[]): Promise<void>
  stopWalk(): Promise<void>
  /** Keeps that a change is seen to have taken effect now, or takes that back. */
  see(what: string, seen: boolean): Promise<void>
  /** Chooses the round whose marks stand beside. */
  setBeside(other: string): void
}

/** The open round; read again and again while the stand-in phone walks it. */
export function useRound(home: HomeHandle, id: () => string | undefined): RoundHandle {
  const view = shallowRef<RoundView>()
  const path = () => ({ params: { path: { round: id() ?? '' } } })

  /** The round whose marks were chosen to stand beside those of which. */
  const beside = ref({ of: '', other: '' })
  let asking = 0

  async function reload() {
    const turn = ++asking
    const asked = id()
    if (!asked) {
      view.value = undefined
      return
    }
    try {
      const query = beside.value.of === asked ? { beside: beside.value.other } : {}
      const got = await answer(api.GET('/api/rounds/{round}', { params: { path: { round: asked }, query } }))
      // A late answer never replaces a newer one.
      if (asked !== id() || turn !== asking) return
      const more = view.value?.round.id === asked && runs(got) !== runs(view.value)
      view.value = got
      if (got.walk_error) home.problem.value = got.walk_error
      // The ledger fills in live.
      if (more && !home.live.value) await home.reload()
    } catch (error) {
      home.fail(error)
      view.value = undefined
    }
  }

  const runs = (round: RoundView) => round.spots.reduce((sum, spot) => sum + spot.run_total, 0)

  /** Does something with the round, then reads round and home again. */
  async function act(request: Promise<unknown>) {
    await request
    await Promise.all([reload(), home.reload()])
  }

  const catchUp = useLatest<void>(reload)
  useIntervalFn(() => {
    if (view.value?.walking) catchUp()
  }, WALK_PAUSE_MS)
  watch(id, reload, { immediate: true })
  // Runs that arrive from elsewhere raise the number of the readings.
  watch(
    () => home.view.value?.readings,
    () => catchUp(),
  )

  return {
    view,
    reload,
    add: (run, confirmed) =>
      act(
        answer(
          api.POST('/api/rounds/{round}/runs', {
            ...path(),
            body: { runs: [run], over_ceiling_confirmed: confirmed },
          }),
        ),
      ),
    correct: (run, outcome, confirmed) =>
      act(
        answer(
          api.PUT('/api/runs/{run}', {
            params: { path: { run } },
            body: { outcome, over_ceiling_confirmed: confirmed },
          }),
        ),
      ),
    voidRun: (run, reason) =>
      act(answer(api.POST('/api/runs/{run}/void', { params: { path: { run } }, body: { reason } }))),
    walk: (seed, mishaps) =>
      act(answer(api.POST('/api/rounds/{round}/walk', { ...path(), body: { seed, mishaps } }))),
    see: (what, seen) =>
      act(answer(api.PUT('/api/rounds/{round}/confirmed', { ...path(), body: { what, seen } }))),
    setBeside: (other) => {
      beside.value = { of: id() ?? '', other }
      void reload()
    },
    stopWalk: () => act(answer(api.DELETE('/api/rounds/{round}/walk', path()))),
  }
}

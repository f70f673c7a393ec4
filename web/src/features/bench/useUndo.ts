import { useRouter } from 'vue-router'

import { answer, api, type Sent } from '../../api/client'
import type { HomeView, StopName } from '../../api/types'
import { useBench } from './useBench'
import type { HomeHandle } from './useHome'

const alike = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

/** The stop at which two states of a home differ. */
function stopOf(before: HomeView, after: HomeView): StopName {
  const [was, is] = [before.home, after.home]
  if (!alike(was.setups, is.setups)) return 'setups'
  if (!alike(was.house, is.house) || !alike(was.air, is.air)) return 'house'
  if (!alike(was.brief, is.brief) || was.name !== is.name || was.units !== is.units) return 'brief'
  return 'rounds'
}

/** Undo and redo of one's own steps: what is typed is stored first, then the step is named and shown where it acts. */
export function useUndo(home: HomeHandle) {
  const router = useRouter()
  const bench = useBench()
  let busy = false

  async function run(
    send: () => Sent<HomeView>,
    words: (before: HomeView) => string,
    isThere: (view: HomeView) => boolean,
  ) {
    if (busy) return
    busy = true
    try {
      for (const draft of home.drafts) {
        if (!draft.dirty.value || (await draft.flush())) continue
        // What can't be stored is one's last step: it is taken back first, and nothing else.
        draft.discard()
        home.problem.value = ''
        home.note.value = 'Taken back: what was not saved'
        return
      }
      const before = home.view.value
      if (!before) return
      if (!isThere(before)) {
        home.note.value = 'Nothing is left to take back'
        return
      }
      const after = await answer(send())
      home.take(after)
      home.problem.value = ''
      home.note.value = words(before)
      await show(before, after)
    } catch (error) {
      home.fail(error)
    } finally {
      busy = false
    }
  }

  async function show(before: HomeView, after: HomeView) {
    const stop = stopOf(before, after)
    if (stop === 'setups') {
      const changed = after.home.setups.find(
        (setup) =>
          !alike(
            setup,
            before.home.setups.find((own) => own.id === setup.id),
          ),
      )
      if (changed) bench.setupId = changed.id
    }
    if (router.currentRoute.value.name !== stop) {
      await router.push({ name: stop, params: { home: home.id } })
    }
  }

  const path = { path: { home: home.id } }
  return {
    undo: (to?: number) =>
      (to === undefined && home.inner?.undo()) ||
      run(
        () => api.POST('/api/homes/{home}/undo', { params: path, body: { to: to ?? null } }),
        (before) => {
          const steps = before.undo.findIndex((step) => step.number === to) + 1
          return `Undone: ${before.undo[0]?.what ?? ''}${steps > 1 ? ` and ${steps - 1} more` : ''}`
        },
        (view) => view.undo.length > 0,
      ),
    redo: () =>
      home.inner?.redo() ||
      run(
        () => api.POST('/api/homes/{home}/redo', { params: path }),
        (before) => `Done again: ${before.redo?.what ?? ''}`,
        (view) => !!view.redo,
      ),
  }
}

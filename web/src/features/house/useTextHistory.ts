import { useDebounceFn, useManualRefHistory } from '@vueuse/core'
import { v4 as newId } from 'uuid'
import { computed, type Ref, watch } from 'vue'

import type { HouseEdit } from '../../api/types'
import type { Draft } from '../../shared/useDraft'

/** What undo takes back: all but where one tests, which follows from the rooms. */
type Typed = Omit<HouseEdit, 'spots'>

/** A pause in typing that begins a new step of undo, ms. */
const PAUSE_MS = 500
/** Steps of undo that are kept. */
const DEPTH = 500

/**
 * Undo of what is typed, chosen and dragged in the house, over all levels. It ends where somebody else, or the home's own undo, changed
 * the house: what it takes back is always one's own doing on this page, and never a step of the home. Where it ends a new `sitting` begins.
 */
export function useTextHistory(draft: Draft<HouseEdit>, sitting: Ref<string>) {
  const typed = computed<Typed | undefined>({
    get() {
      if (!draft.edit.value) return undefined
      const rest: Partial<HouseEdit> = { ...draft.edit.value }
      delete rest.spots
      return rest as Typed
    },
    set(now) {
      if (now && draft.edit.value) draft.edit.value = { ...now, spots: draft.edit.value.spots }
    },
  })
  const history = useManualRefHistory(typed, {
    capacity: DEPTH,
    clone: (own) => (own ? (JSON.parse(JSON.stringify(own)) as Typed) : own),
  })
  const text = (own: Typed | undefined) => JSON.stringify(own)

  const commit = () => {
    if (text(typed.value) !== text(history.last.value.snapshot)) history.commit()
  }
  const commitLater = useDebounceFn(commit, PAUSE_MS)
  let known = text(typed.value)

  // What the server or others made of it is nobody's to take back here.
  watch(
    draft.filled,
    () => {
      if (text(typed.value) === known) return
      known = text(typed.value)
      history.commit()
      history.clear()
      sitting.value = newId()
    },
    { flush: 'sync', immediate: true },
  )
  watch(
    typed,
    () => {
      if (!draft.dirty.value) return
      known = text(typed.value)
      void commitLater()
    },
    { deep: true },
  )

  /** Writes lines: typed ones as steps by pauses, what was dragged as one of its own. */
  function write(lines: Record<string, string>, dragged = false) {
    if (dragged) commit()
    draft.edit.value?.levels.forEach((level) => {
      const now = lines[level.id]
      if (now !== undefined && now !== level.lines) level.lines = now
    })
    known = text(typed.value)
    if (dragged) commit()
  }

  /** The level whose lines a step of undo or redo changed, empty when it changed none; nothing when there is no such step. */
  function step(take: () => void, can: () => boolean): string | undefined {
    commit()
    if (!can()) return undefined
    const before = new Map(typed.value?.levels.map((level) => [level.id, level.lines]))
    take()
    known = text(typed.value)
    return typed.value?.levels.find((level) => before.get(level.id) !== level.lines)?.id ?? ''
  }

  return {
    write,
    undo: () => step(history.undo, () => history.canUndo.value),
    redo: () => step(history.redo, () => history.canRedo.value),
  }
}

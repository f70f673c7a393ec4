import { useDebounceFn, useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'

import { unread } from './numbers'
import { rebase } from './rebase'

/** What became of a save: taken, refused with a reason told elsewhere, not answered, or changed by others as well. */
export type Saved<T> =
  { kind: 'taken'; stored: T; revision: number } | { kind: 'refused' | 'offline' | 'both' }

export interface Draft<T> {
  /** What is typed; nothing before the stored thing is there. */
  edit: Ref<T | undefined>
  /** "Saved", "Saving …" or what keeps it from being saved. */
  state: Readonly<Ref<string>>
  /** Counts up when what is stored took the place of what was shown. */
  filled: Readonly<Ref<number>>
  /** Whether something typed is not stored yet. */
  dirty: Readonly<Ref<boolean>>
  /** Stores what is waiting; true when nothing is left to store. */
  flush(): Promise<boolean>
  /** Gives up what is not stored and shows what is. */
  discard(): void
  /** Makes the draft one of the newest revision, so that it is stored over what others changed. */
  insist(): void
}

/** Longest that something typed waits to be sent, ms; it is kept on this machine at once. */
const PAUSE_MS = 400
/** How often a save that got no answer is tried again, ms. */
const AGAIN_MS = 2500

/**
 * A draft of something stored. It is saved a moment after each change and kept on this machine until it is, so that a page
 * that is left, reloaded or killed loses nothing. It remembers the revision it was begun on: what others change meanwhile is
 * brought together with it by the server, or asked about, and never overwritten unseen.
 */
export function useDraft<T>(options: {
  /** Names the draft on this machine: home and part of it. */
  key: string
  /** The stored thing with its revision. */
  stored: () => { value: T; revision: number } | undefined
  save: (edit: T, base: number) => Promise<Saved<T>>
}): Draft<T> {
  const edit = ref<T>() as Ref<T | undefined>
  const dirty = ref(false)
  const saving = ref(false)
  const filled = ref(0)
  const failed = ref<'' | 'refused' | 'offline' | 'both'>('')
  let base = 0
  let loading = false
  const shelf = `busy-hen draft ${options.key}`
  const copy = (value: T): T => JSON.parse(JSON.stringify(value)) as T

  function fill(value: T, revision: number) {
    base = revision
    // What is shown already wakes nobody.
    if (JSON.stringify(value) === JSON.stringify(edit.value)) return
    loading = true
    edit.value = copy(value)
    loading = false
    filled.value += 1
  }

  function shelve() {
    if (dirty.value) localStorage.setItem(shelf, JSON.stringify({ base, edit: edit.value }))
    else localStorage.removeItem(shelf)
  }

  async function store(): Promise<void> {
    if (!dirty.value || saving.value || edit.value === undefined) return
    saving.value = true
    dirty.value = false
    const sent = copy(edit.value)
    const result = await options.save(sent, base)
    saving.value = false
    // What was typed while it was under way still waits.
    const typedOn = JSON.stringify(edit.value) !== JSON.stringify(sent)
    if (result.kind === 'taken') {
      failed.value = ''
      let clashed = false
      const next = rebase(sent, edit.value, result.stored, () => (clashed = true)) as T
      if (clashed) dirty.value = true
      else {
        fill(next, result.revision)
        dirty.value = typedOn
      }
      shelve()
      if (dirty.value) await store()
      return
    }
    failed.value = result.kind
    dirty.value = true
    if (typedOn && result.kind === 'refused') await store()
  }
  const later = useDebounceFn(store, PAUSE_MS, { maxWait: PAUSE_MS })

  watch(
    edit,
    () => {
      if (loading) return
      dirty.value = true
      if (failed.value === 'refused') failed.value = ''
      shelve()
      void later()
    },
    { deep: true, flush: 'sync' },
  )
  watch(
    options.stored,
    (now) => {
      if (!now) return
      if (edit.value === undefined) {
        fill(now.value, now.revision)
        restore()
      } else if (!dirty.value && !saving.value) fill(now.value, now.revision)
    },
    { immediate: true },
  )

  /** Goes on with what an earlier page left unsaved. */
  function restore() {
    const left = localStorage.getItem(shelf)
    if (!left) return
    try {
      const kept = JSON.parse(left) as { base: number; edit: T }
      loading = true
      edit.value = kept.edit
      base = kept.base
      loading = false
      dirty.value = true
      void store()
    } catch {
      localStorage.removeItem(shelf)
    }
  }

  useIntervalFn(() => {
    if (failed.value === 'offline') void store()
  }, AGAIN_MS)
  useEventListener(window, 'pagehide', shelve)
  onScopeDispose(() => void store())

  const state = computed(() => {
    if (failed.value === 'offline') return 'Not saved: no answer; kept here and tried again'
    if (failed.value === 'both') return 'Not saved: changed elsewhere too'
    if (failed.value) return 'Not saved: see above'
    if (unread.state.value === 'stuck') return 'Not saved: see the marked field'
    return dirty.value || saving.value || unread.state.value ? 'Saving …' : 'Saved'
  })
  return {
    edit,
    filled,
    state,
    dirty: computed(() => dirty.value || saving.value),
    async flush() {
      while (saving.value) await new Promise((done) => setTimeout(done, 20))
      await store()
      return !dirty.value
    },
    discard() {
      dirty.value = false
      failed.value = ''
      shelve()
      const now = options.stored()
      if (now) fill(now.value, now.revision)
    },
    insist() {
      const now = options.stored()
      if (now) base = now.revision
      failed.value = ''
      dirty.value = true
      shelve()
      void store()
    },
  }
}

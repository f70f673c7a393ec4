import { useDebounceFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch, type Ref, type WatchSource } from 'vue'

export interface Autosave {
  /** "Saved", "Saving …" or what keeps it from being saved. */
  state: Readonly<Ref<string>>
  /** Whether something typed is not stored yet. */
  dirty: Readonly<Ref<boolean>>
}

/**
 * Saves a draft a moment after its last change. What was typed stays in the draft whatever the server says.
 *
 * `save` stores the draft as it is and tells whether it was taken; `remote` is the stored thing, from which `load` fills
 * the draft anew when it changed elsewhere and nothing typed is waiting.
 */
export function useAutosave(options: {
  draft: WatchSource
  remote: WatchSource
  load: () => void
  save: () => Promise<boolean>
  /** Pause in typing before a save, ms. */
  pause?: number
}): Autosave {
  const dirty = ref(false)
  const saving = ref(false)
  const refused = ref(false)
  let loading = false
  let again = false

  async function store() {
    if (!dirty.value) return
    if (saving.value) {
      again = true
      return
    }
    saving.value = true
    dirty.value = false
    refused.value = !(await options.save())
    saving.value = false
    if (refused.value) dirty.value = true
    else if (again) {
      again = false
      await store()
    }
  }
  const later = useDebounceFn(store, options.pause ?? 500)

  watch(
    options.draft,
    () => {
      if (loading) return
      dirty.value = true
      refused.value = false
      void later()
    },
    { deep: true, flush: 'sync' },
  )
  watch(
    options.remote,
    () => {
      if (dirty.value || saving.value) return
      loading = true
      options.load()
      loading = false
    },
    { immediate: true },
  )
  onScopeDispose(() => void store())

  const state = computed(() => {
    if (refused.value) return 'Not saved: see above'
    if (dirty.value || saving.value) return 'Saving …'
    return 'Saved'
  })
  return { state, dirty }
}

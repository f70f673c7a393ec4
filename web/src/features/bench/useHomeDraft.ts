import { onScopeDispose } from 'vue'

import type { Sent } from '../../api/client'
import type { HomeView } from '../../api/types'
import { type Draft, useDraft } from '../../shared/useDraft'
import { type Based, type HomeHandle } from './useHome'

/** A draft of a part of the home on the bench. */
export function useHomeDraft<T>(
  home: HomeHandle,
  options: {
    /** Names the part. */
    name: string
    part: (view: HomeView) => T
    send: (edit: T, based: Based) => Sent<HomeView>
    /** What a save and its answer wait for, so that neither delays what is shown of what was typed. */
    quiet?: () => Promise<void>
  },
): Draft<T> {
  const draft = useDraft<T>({
    key: `${home.id} ${options.name}`,
    stored: () => {
      const view = home.view.value
      const value = view && options.part(view)
      return value === undefined ? undefined : { value, revision: view!.revision }
    },
    save: (edit, base) => home.store((based) => options.send(edit, based), base, options.part, options.quiet),
  })
  home.drafts.add(draft as Draft<unknown>)
  onScopeDispose(() => home.drafts.delete(draft as Draft<unknown>))
  return draft
}

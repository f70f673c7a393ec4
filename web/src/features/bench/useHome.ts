import { useWebSocket } from '@vueuse/core'
import { computed, inject, type InjectionKey, provide, ref, type Ref, shallowRef, type ShallowRef } from 'vue'

import { answer, api, ApiProblem, type Sent } from '../../api/client'
import type { BothChanged, HomeView } from '../../api/types'
import type { Draft, Saved } from '../../shared/useDraft'
import { useLatest } from '../../shared/useLatest'

/** What a change says it is based on. */
export type Based = { 'If-Match': string }

/** Something that was changed here and elsewhere, and the two ways on. */
export interface Clash {
  both: BothChanged[]
  mine(): void
  theirs(): void
}

/** The home on the bench, and the way to change it. */
export interface HomeHandle {
  id: string
  view: ShallowRef<HomeView | undefined>
  /** What went wrong last, told until the next success. */
  problem: Ref<string>
  /** What has just been undone or redone. */
  note: Ref<string>
  /** What is to be chosen between, when something was changed here and elsewhere. */
  clash: ShallowRef<Clash | undefined>
  /** Whether changes made elsewhere reach this page by themselves. */
  live: Readonly<Ref<boolean>>
  reload(): Promise<void>
  /** Sends a change that is based on what this page shows; false when it was refused. */
  change(send: (based: Based) => Sent<HomeView>): Promise<boolean>
  /** Stores a draft that was begun on a revision. */
  store<T>(
    send: (based: Based) => Sent<HomeView>,
    base: number,
    part: (view: HomeView) => T,
    /** What the answer waits for before it is shown. */
    quiet?: () => Promise<void>,
  ): Promise<Saved<T>>
  /** Takes an answer that shows the home, unless something newer is shown already. */
  take(view: HomeView): void
  /** Tells a failure of anything else on the bench. */
  fail(error: unknown): void
  /** Tells a failure of what was asked of a setup; one that is gone is gone from the next view too, which says enough. */
  failOfSetup(error: unknown): void
  /** Drafts that are open on this page. */
  drafts: Set<Draft<unknown>>
  /** Undo of what is typed on this page, which goes before that of the home; false when there is nothing left of it. */
  inner?: { undo(): boolean; redo(): boolean }
}

const key: InjectionKey<HomeHandle> = Symbol('home')
const based = (revision: number): Based => ({ 'If-Match': `"${revision}"` })

/** Makes the home of this id the one on the bench. */
export function provideHome(id: string): HomeHandle {
  const view = shallowRef<HomeView>()
  const problem = ref('')
  const note = ref('')
  const clash = shallowRef<Clash>()
  const drafts = new Set<Draft<unknown>>()

  function fail(error: unknown) {
    problem.value =
      error instanceof ApiProblem ? error.message : 'Something failed that should not; reload the page.'
    if (!(error instanceof ApiProblem)) console.error(error)
  }

  function failOfSetup(error: unknown) {
    if (!(error instanceof ApiProblem && error.code === 'not_found')) fail(error)
  }

  /** Answers may come in another order than they were asked for; the newest stays. */
  function take(got: HomeView) {
    const shown = view.value
    const older =
      shown &&
      (got.revision < shown.revision || (got.revision === shown.revision && got.readings < shown.readings))
    if (!older) view.value = got
  }

  async function reload() {
    try {
      take(await answer(api.GET('/api/homes/{home}', { params: { path: { home: id } } })))
    } catch (error) {
      fail(error)
    }
  }

  // A walked round sends a reading every moment; each answer shows all of them.
  const catchUp = useLatest<void>(reload)

  /** Newest state that the line told of, and own changes on their way: their answers bring it along. */
  let told = { revision: 0, readings: 0 }
  let underway = 0

  function lookAgain() {
    const shown = view.value
    const newer = !shown || told.revision > shown.revision || told.readings > shown.readings
    if (underway === 0 && told.revision > 0 && newer) catchUp()
  }

  async function own(sent: Sent<HomeView>, quiet?: () => Promise<void>): Promise<HomeView> {
    underway += 1
    try {
      const got = await answer(sent)
      await quiet?.()
      take(got)
      return got
    } finally {
      underway -= 1
      lookAgain()
    }
  }

  async function change(send: (based: Based) => Sent<HomeView>): Promise<boolean> {
    try {
      await own(send(based(view.value?.revision ?? 0)))
      problem.value = ''
      return true
    } catch (error) {
      if (error instanceof ApiProblem && error.code === 'both_changed') {
        await reload()
        clash.value = { both: error.both, mine: () => void change(send), theirs: () => undefined }
      } else if (error instanceof ApiProblem && error.code === 'stale') {
        await reload()
        fail(error)
      } else fail(error)
      return false
    }
  }

  async function store<T>(
    send: (based: Based) => Sent<HomeView>,
    base: number,
    part: (view: HomeView) => T,
    quiet?: () => Promise<void>,
  ): Promise<Saved<T>> {
    try {
      await quiet?.()
      const got = await own(send(based(base)), quiet)
      problem.value = ''
      return { kind: 'taken', stored: part(got), revision: got.revision }
    } catch (error) {
      if (error instanceof ApiProblem && ['both_changed', 'stale'].includes(error.code)) {
        await reload()
        const open = [...drafts]
        clash.value = {
          both: error.both,
          mine: () => open.forEach((draft) => draft.state.value.startsWith('Not saved') && draft.insist()),
          theirs: () => open.forEach((draft) => draft.state.value.startsWith('Not saved') && draft.discard()),
        }
        return { kind: 'both' }
      }
      if (error instanceof ApiProblem && error.code === 'offline') return { kind: 'offline' }
      fail(error)
      return { kind: 'refused' }
    }
  }

  const address = `${window.location.origin.replace(/^http/, 'ws')}/api/homes/${id}/live`
  const { status } = useWebSocket(address, {
    autoReconnect: { retries: -1, delay: 1000 },
    onMessage(_, event) {
      const { revision, readings } = JSON.parse(event.data as string) as {
        revision: number | null
        readings: number | null
      }
      if (revision === null) {
        problem.value = 'This home was deleted in another window; what you type here can’t be kept.'
        return
      }
      told = { revision, readings: readings ?? 0 }
      lookAgain()
    },
  })
  const live = computed(() => status.value === 'OPEN')

  const handle: HomeHandle = {
    id,
    view,
    problem,
    note,
    clash,
    live,
    reload,
    change,
    store,
    take,
    fail,
    failOfSetup,
    drafts,
  }
  provide(key, handle)
  return handle
}

/** The home on the bench. */
export function useHome(): HomeHandle {
  const handle = inject(key)
  if (!handle) throw new Error('useHome works inside of the bench only')
  return handle
}

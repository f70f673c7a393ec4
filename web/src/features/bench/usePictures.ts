import { v4 as newId } from 'uuid'
import { inject, type InjectionKey, provide, ref, type Ref, shallowRef, type ShallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { Picture } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import type { HomeHandle } from './useHome'

/** What a picture that is added shows: one of these. */
export type Showing = { spot: string } | { device: string } | { room: string }

interface PicturesHandle {
  list: ShallowRef<Picture[]>
  problem: Ref<string>
  add(file: File, shows: Showing): Promise<void>
  remove(id: string): Promise<void>
}

const key: InjectionKey<PicturesHandle> = Symbol('pictures')

/** The pictures of the home on the bench, read again when something arrives. */
export function providePictures(home: HomeHandle) {
  const list = shallowRef<Picture[]>([])
  const problem = ref('')
  const path = { params: { path: { home: home.id } } }

  async function attempt(work: () => Promise<void>) {
    try {
      await work()
      problem.value = ''
    } catch (error) {
      problem.value = (error as Error).message
    }
  }
  const read = async () => {
    list.value = await answer(api.GET('/api/homes/{home}/pictures', path))
  }
  const catchUp = useLatest<void>(() => attempt(read))
  watch(
    () => home.view.value?.readings,
    (now) => now !== undefined && catchUp(),
    { immediate: true },
  )

  const add = (file: File, shows: Showing) =>
    attempt(async () => {
      const query = { id: newId(), at: new Date().toISOString(), ...shows }
      await answer(
        api.POST('/api/homes/{home}/pictures', {
          params: { path: { home: home.id }, query },
          body: file as never,
          bodySerializer: (body) => body as never,
          headers: { 'Content-Type': file.type || 'image/jpeg' },
        }),
      )
      await read()
    })
  const remove = (id: string) =>
    attempt(async () => {
      await answer(api.DELETE('/api/pictures/{picture}', { params: { path: { picture: id } } }))
      await read()
    })

  provide(key, { list, problem, add, remove })
}

/** The pictures of the home on the bench. */
export function usePictures(): PicturesHandle {
  const handle = inject(key)
  if (!handle) throw new Error('usePictures works inside of the bench only')
  return handle
}

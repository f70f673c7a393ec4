import { shallowRef, ref, watch } from 'vue'

import { answer, api, ApiProblem } from '../../api/client'
import type { DeviceNote, Watches, WatchReport } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { useUnsent } from '../../shared/useUnsent'
import { useHome } from '../bench'

/** Watches of the home on the bench, the one that is looked at, and what was noted of devices by hand. */
export function useWatches() {
  const home = useHome()
  const list = shallowRef<Watches>()
  const shown = ref<string>()
  const told = shallowRef<WatchReport>()
  /** What became of the log that was brought last. */
  const brought = ref('')

  const look = useLatest<void>(async () => {
    try {
      const got = await answer(api.GET('/api/homes/{home}/watches', { params: { path: { home: home.id } } }))
      list.value = got
      if (!got.watches.some((own) => own.id === shown.value)) shown.value = got.watches.at(-1)?.id
      await open()
    } catch (error) {
      home.fail(error)
    }
  })

  async function open() {
    const id = shown.value
    if (!id) {
      told.value = undefined
      return
    }
    const got = await answer(
      api.GET('/api/homes/{home}/watches/{watch}', { params: { path: { home: home.id, watch: id } } }),
    )
    if (id === shown.value) told.value = got
  }

  watch(home.view, () => look(undefined), { immediate: true })
  watch(shown, () => void open().catch(home.fail))

  /** Takes in the log that a watch has written. */
  async function bring(file: File) {
    try {
      const kept = await answer(
        api.POST('/api/homes/{home}/watches', {
          params: { path: { home: home.id } },
          headers: { 'Content-Type': 'application/jsonl' },
          body: await file.text(),
          bodySerializer: (text) => text,
        }),
      )
      brought.value = `${file.name} was taken in.`
      shown.value = kept.id
      look(undefined)
    } catch (error) {
      const faults = error instanceof ApiProblem ? error.faults : []
      brought.value = `${file.name} was not taken in, nothing was changed. ${faults[0]?.message ?? (error as Error).message}`
    }
  }

  async function remove(id: string) {
    try {
      await answer(
        api.DELETE('/api/homes/{home}/watches/{watch}', { params: { path: { home: home.id, watch: id } } }),
      )
      look(undefined)
    } catch (error) {
      home.fail(error)
    }
  }

  const unsent = useUnsent<DeviceNote>(`busy-hen device notes ${home.id}`, async (body) => {
    await answer(api.POST('/api/homes/{home}/device-notes', { params: { path: { home: home.id } }, body }))
    look(undefined)
  })

  async function removeNote(note: string) {
    try {
      await answer(api.DELETE('/api/device-notes/{note}', { params: { path: { note } } }))
      look(undefined)
    } catch (error) {
      home.fail(error)
    }
  }

  return { list, shown, told, brought, bring, remove, unsent, removeNote }
}

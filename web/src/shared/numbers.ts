import { computed, inject, type InjectionKey, reactive, ref, type Ref } from 'vue'

import type { NumberRead, Quantity } from '../api/types'

/** Reads numbers as people type them in the country of the home; throws where nothing answers. */
export type ReadNumbers = (numbers: { typed: string; of: Quantity }[]) => Promise<NumberRead[]>

export interface NumberReader {
  read: ReadNumbers
  /** The home whose numbers they are, by which what is half typed is kept. */
  home: string
  /** The mark before decimals. */
  decimals: Readonly<Ref<'point' | 'comma'>>
}

export const READER: InjectionKey<NumberReader> = Symbol('reader of numbers')

/** A number as a field shows it, without parting thousands: read again it is itself. */
export const shownNumber = (value: number | null | undefined, decimals: 'point' | 'comma') =>
  value == null ? '' : String(value).replace('.', decimals === 'comma' ? ',' : '.')

/** What was read of a text, kept with that text: typed on, it holds no more. */
export interface ReadOf extends NumberRead {
  typed: string
}

/** Fields of the page that hold what is not stored: being read, or not a number yet. */
const open = reactive(new Map<symbol, 'reading' | 'stuck'>())
export const unread = {
  set(field: symbol, state: 'reading' | 'stuck' | undefined) {
    if (state) open.set(field, state)
    else open.delete(field)
  },
  state: computed(() => {
    const states = [...open.values()]
    return states.includes('stuck') ? 'stuck' : states[0]
  }),
  /** Waits until all that was typed is read; false where a field must be put right first. */
  async settled() {
    while (this.state.value === 'reading') await new Promise((done) => setTimeout(done, 20))
    return this.state.value === undefined
  },
}

/** The fields of a form, read together when it is sent; each keeps its text until then. */
export function useReading<K extends string>(of: Record<K, Quantity>) {
  const reader = inject(READER)
  const told = ref({}) as Ref<Partial<Record<K, ReadOf>>>
  const keys = Object.keys(of) as K[]

  /** The numbers, none where a field is empty; nothing when one has to be put right first. */
  async function read(form: Record<K, string>): Promise<Record<K, number | null> | undefined> {
    const full = keys.filter((key) => form[key].trim() !== '')
    const got = full.length ? await reader!.read(full.map((key) => ({ typed: form[key], of: of[key] }))) : []
    told.value = Object.fromEntries(
      full.map((key, at) => [key, { typed: form[key], ...got[at]! }]),
    ) as Partial<Record<K, ReadOf>>
    if (got.some((own) => own.value == null)) return undefined
    return Object.fromEntries(keys.map((key) => [key, told.value[key]?.value ?? null])) as Record<
      K,
      number | null
    >
  }

  return { told, read }
}

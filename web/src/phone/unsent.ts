import { del, entries, set } from 'idb-keyval'

import type { PhoneRun } from '../api/types'

/** A run with the token of the round it was taken in: the phone may be paired with another by the time it is sent. */
export interface Unsent {
  token: string
  run: PhoneRun
}

/** Runs that the bench has not acknowledged, oldest first. They survive a reload and a flat battery. */
export async function unsent(): Promise<Unsent[]> {
  const all = await entries<string, Unsent>()
  return all.map(([, own]) => own).sort((a, b) => a.run.at.localeCompare(b.run.at))
}

export const save = (own: Unsent) => set(own.run.id, own)

export const forget = (own: Unsent) => del(own.run.id)

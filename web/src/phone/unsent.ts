import { del, entries, set } from 'idb-keyval'

import type { PhoneRun } from '../api/types'

/** Runs that the bench has not acknowledged, oldest first. They survive a reload and a flat battery. */
export async function unsent(): Promise<PhoneRun[]> {
  const all = await entries<string, PhoneRun>()
  return all.map(([, run]) => run).sort((a, b) => a.at.localeCompare(b.at))
}

export const save = (run: PhoneRun) => set(run.id, run)

export const forget = (run: PhoneRun) => del(run.id)

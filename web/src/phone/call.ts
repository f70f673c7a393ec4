import type { RawCall } from '../api/types'
import { openLine, PATIENCE_MS, type Place, rest } from '../shared/line'
import type { Interruption, Watch } from './measure'

/** How long it is held, ms. */
const HELD_MS = 20_000
/** Time between two exchanges, ms. */
const EVERY_MS = 40

/** Holds the stand-in for a call: exchanges at its rate in both directions. */
export async function call(
  { id, to, mbps }: { id: string; to: Place; mbps: number },
  watch: Watch,
  stop: AbortSignal,
): Promise<RawCall> {
  const raw: RawCall = { rate_mbps: mbps, trips: [], held_ms: 0, interruptions: [] }
  let began = performance.now()
  const now = () => performance.now() - began
  const line = openLine(to, id, 'alone', now, {
    waiting: () => watch.phase('waiting'),
    broken: () => raw.interruptions.push('broken'),
  })
  const filling = 'x'.repeat(Math.round(mbps * 125 * EVERY_MS))
  try {
    await line.turn
    watch.phase('call')
    began = performance.now()
    for (let count = 1; now() < HELD_MS && !stop.aborted && line.isOpen(); count++) {
      void line.exchange(raw.trips, filling)
      const last = raw.trips.at(-1)
      if (last && count % 5 === 0) watch.rate(last.took_ms)
      await rest(Math.max(0, count * EVERY_MS - now()))
    }
    raw.held_ms = HELD_MS
    // What is on its way still counts, a call that stands still does not go on for ever.
    await Promise.race([line.exchange([]), rest(PATIENCE_MS)])
  } finally {
    line.close()
  }
  if (stop.aborted) raw.interruptions.push(stop.reason as Interruption)
  return raw
}

import type { RawWalk } from '../api/types'
import { openLine, type Place, rest } from '../shared/line'
import type { Interruption, Watch } from './measure'

/** Time between two exchanges, ms. */
const EVERY_MS = 50
/** Pause before a broken line is opened again, ms. */
const AGAIN_MS = 250
/** Longest walk, ms. */
const LONGEST_MS = 25 * 60_000

/** What the walker says on the way. */
export interface OnTheWay {
  /** The spot that is passed now. */
  passed?: string
  /** That the walk is over. */
  over?: boolean
}

/** Watches the delay while walking, until told that it is over; a line that breaks is opened again. */
export async function walk(
  { id, to, spot }: { id: () => string; to: Place; spot: string },
  watch: Watch,
  stop: AbortSignal,
  listen: (heard: (word: OnTheWay) => void) => void,
): Promise<RawWalk> {
  const began = performance.now()
  const now = () => performance.now() - began
  const raw: RawWalk = {
    trips: [],
    passed: [{ spot_id: spot, at_ms: 0 }],
    walked_ms: 0,
    interruptions: [],
  }
  let over = false
  listen((word) => {
    if (word.passed) raw.passed.push({ spot_id: word.passed, at_ms: now() })
    over ||= word.over ?? false
  })
  watch.phase('walk')
  const goesOn = () => !over && !stop.aborted && now() < LONGEST_MS
  while (goesOn()) {
    const line = openLine(to, id(), 'beside', now, { broken: () => raw.interruptions.push('broken') })
    await line.turn
    for (let next = now(); goesOn() && line.isOpen(); next += EVERY_MS) {
      void line.exchange(raw.trips)
      const last = raw.trips.at(-1)
      if (last) watch.rate(Math.max(last.took_ms, now() - last.at_ms - last.took_ms - EVERY_MS))
      await rest(Math.max(0, next + EVERY_MS - now()))
    }
    line.close()
    if (goesOn()) await rest(AGAIN_MS)
  }
  raw.walked_ms = now()
  if (stop.aborted) raw.interruptions.push(stop.reason as Interruption)
  return raw
}

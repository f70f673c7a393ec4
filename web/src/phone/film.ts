import type { RawFilm } from '../api/types'
import { at, openLine, type Place, rest } from '../shared/line'
import type { Interruption, Watch } from './measure'

/** Play time of a part, ms. */
const PART_MS = 2000
/** How far ahead a player fetches, ms. */
const AHEAD_MS = 10_000
/** Parts before the seek and after it: ten seconds, then fifty. */
const PARTS = [5, 25] as const
/** Longest that it may take, ms: less than a far side lets a turn last. */
const LONGEST_MS = 80_000

/** Plays the stand-in for a film: fetches its parts one after the other, as a player does, with a seek after ten seconds. */
export async function film(
  { id, to, mbps }: { id: string; to: Place; mbps: number },
  watch: Watch,
  stop: AbortSignal,
): Promise<RawFilm> {
  const raw: RawFilm = { rate_mbps: mbps, part_ms: PART_MS, parts: [], sought: null, interruptions: [] }
  const spoil = (what: Interruption) => raw.interruptions.push(what)
  let began = performance.now()
  const now = () => performance.now() - began
  const line = openLine(to, id, 'alone', now, {
    waiting: () => watch.phase('waiting'),
    broken: () => spoil('broken'),
  })
  const ended = () => stop.aborted || raw.interruptions.length > 0 || now() > LONGEST_MS
  const giveUp = new AbortController()
  stop.addEventListener('abort', () => giveUp.abort())
  // Exchanges keep the line open and tell when it breaks.
  const beat = setInterval(() => void line.exchange([]), 1000)
  try {
    await line.turn
    watch.phase('film')
    began = performance.now()
    const limit = setTimeout(() => giveUp.abort(), LONGEST_MS)
    for (const [leg, count] of PARTS.entries()) {
      if (ended()) break
      if (leg > 0) raw.sought = raw.parts.length
      let plays: number | undefined
      for (let part = 0; part < count && !ended(); part++) {
        // No further ahead than a player goes.
        if (plays !== undefined) await rest(Math.max(0, plays + part * PART_MS - AHEAD_MS - now()))
        const asked = now()
        const answer = await fetch(at(to, id, 'down', `&bytes=${Math.round(mbps * 125 * PART_MS)}`), {
          signal: giveUp.signal,
          cache: 'no-store',
        })
        await answer.arrayBuffer()
        raw.parts.push({ asked_ms: asked, arrived_ms: now() })
        watch.rate((mbps * PART_MS) / Math.max(now() - asked, 1))
        plays ??= now()
      }
      // The viewer watches what there is, then jumps.
      if (leg === 0 && plays !== undefined) await rest(Math.max(0, plays + count * PART_MS - now()))
    }
    clearTimeout(limit)
    if ((raw.sought ?? 0) >= raw.parts.length) raw.sought = null
  } catch {
    // A part that was given up is told by what is there.
    if ((raw.sought ?? 0) >= raw.parts.length) raw.sought = null
  } finally {
    clearInterval(beat)
    line.close()
  }
  if (stop.aborted) spoil(stop.reason as Interruption)
  return raw
}

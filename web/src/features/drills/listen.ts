import { v4 as newId } from 'uuid'

import type { RawStream } from '../../api/types'
import { at, type Line, openLine, type Place, rest } from '../../shared/line'

/** Time between two exchanges of the call, ms. */
const EVERY_MS = 100
/** Pause before a connection that broke is made again, ms. */
const AGAIN_MS = 250
/** Longest wait for a connection, ms. */
const CONNECTS_MS = 1500
/** After such a silence another connection is tried beside the one there is, ms. */
const DOUBTS_MS = 1500
/** How long the old one may still answer once the new one does, ms. */
const GRACE_MS = 500
/** Rate of the download: little enough to leave the family its line, Mb/s. */
const DOWNLOAD_MBPS = 2
/** Bytes of one download: more than a drill gets through. */
const DOWNLOAD_BYTES = 2 ** 30

/** A connection of the call, under the name of its test. */
interface Connection {
  line: Line
  id: string
}

/** What is heard at one place, and what it has come to; nothing is judged here. */
export interface Listening {
  raw: RawStream
  /** When the last answer came, ms; nothing before the first. */
  answered(): number | undefined
}

/** Where a place sees this page come from; nothing when it does not answer soon. */
export async function cameFrom(to: Place, stop?: AbortSignal): Promise<string | undefined> {
  const late = AbortSignal.timeout(CONNECTS_MS * 2)
  try {
    const got = await fetch(`${to.origin}/measure/seen?token=${encodeURIComponent(to.token)}`, {
      signal: stop ? AbortSignal.any([stop, late]) : late,
      cache: 'no-store',
    })
    const address = (await got.text()).trim()
    return got.ok && address ? address : undefined
  } catch {
    return undefined
  }
}

/** Holds a call and a download to a place until it is stopped, and writes down what came of each exchange. */
export function listen(
  to: Place,
  clock: () => number,
  stop: AbortSignal,
  /** Where the page was seen to come from so far: it grows. */
  ways: RawStream['ways'] = [],
): Listening {
  const raw: RawStream = {
    trips: [],
    lost: [],
    broken: [],
    arrived: [],
    broken_downloads: [],
    ways,
    until_ms: 0,
  }
  const waiting = new Set<number>()
  let answered: number | undefined

  /** One exchange, or an attempt at a connection: it waits until it is answered. */
  async function ask(exchange: (into: RawStream['trips']) => Promise<void>) {
    const sent = clock()
    const into: RawStream['trips'] = []
    waiting.add(sent)
    await exchange(into)
    const trip = into[0]
    if (!trip) return
    waiting.delete(sent)
    raw.trips.push({ ...trip, at_ms: sent })
    answered = clock()
  }

  /** A connection; nothing when none came in time. */
  async function connect(broken: () => void): Promise<Connection | undefined> {
    const id = newId()
    const line = openLine(to, id, 'beside', clock, { broken })
    const open = await Promise.race([line.turn.then(line.isOpen), rest(CONNECTS_MS).then(() => false)])
    if (open) return { line, id }
    line.close()
  }

  /** Where the place sees this page come from, by a connection of its own. */
  async function look() {
    const address = await cameFrom(to, stop)
    if (address) ways.push({ at_ms: Math.round(clock()), address })
  }

  /** A connection that answered, as a call that is begun; the attempt is an exchange that waits. */
  async function begin(broken: () => void): Promise<Connection | undefined> {
    let own: Connection | undefined
    await ask(async (into) => {
      own = await connect(broken)
      await own?.line.exchange(into)
    })
    if (own) goesBy(own)
    return own
  }

  function goesBy(own: Connection) {
    void look()
    void download(own.id)
  }

  async function call() {
    let own: Connection | undefined
    let gone = false
    while (!stop.aborted) {
      if (!own) {
        gone = false
        own = await begin(() => (gone = true))
        if (!own) {
          await rest(AGAIN_MS)
          continue
        }
      }
      const { line } = own
      void ask(line.exchange)
      if (gone || !line.isOpen()) {
        raw.broken.push(clock())
        own = undefined
      } else if (clock() - (answered ?? 0) > DOUBTS_MS) {
        let fell = false
        const other = await connect(() => (fell = true))
        if (!other) continue
        await rest(GRACE_MS)
        if (clock() - (answered ?? 0) < DOUBTS_MS) {
          other.line.close()
        } else if (!fell) {
          raw.broken.push(clock())
          line.close()
          own = other
          gone = false
          await ask(other.line.exchange)
          goesBy(other)
        }
      } else await rest(EVERY_MS)
    }
    own?.line.close()
  }

  let loads = false
  /** A download that runs beside the call; one at a time. */
  async function download(id: string) {
    if (loads) return
    loads = true
    const begun = clock()
    let bytes = 0
    try {
      const got = await fetch(at(to, id, 'down', `&bytes=${DOWNLOAD_BYTES}`), {
        signal: stop,
        cache: 'no-store',
      })
      const reader = got.body?.getReader()
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
        bytes += part.value.length
        raw.arrived.push({ at_ms: clock(), bytes })
        await rest(Math.max(0, bytes / (DOWNLOAD_MBPS * 125) - (clock() - begun)))
      }
    } catch {
      if (!stop.aborted) raw.broken_downloads.push(clock())
    }
    loads = false
  }

  void call()
  return {
    get raw() {
      return { ...raw, lost: [...waiting], until_ms: clock() }
    },
    answered: () => answered,
  }
}

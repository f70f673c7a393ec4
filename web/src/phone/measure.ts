import type { RawTest } from '../api/types'
import { at, openLine, PATIENCE_MS, type Place, rest } from '../shared/line'

/** Exchanges before the transfers. */
const IDLE_EXCHANGES = 40
/** Pause between two of them, ms. */
const IDLE_PAUSE_MS = 20
/** Length of each transfer, its ramp included, ms. */
export const TRANSFER_MS = 6000
/** Streams at once. */
const STREAMS = 4
/** Pause between two counts and exchanges under load, ms. */
const COUNT_MS = 50
/** One request of a download, bytes: more than a transfer gets through. */
const DOWN_BYTES = 2 ** 31
/** Smallest and largest request of an upload, bytes. */
const UP_BYTES = [2 ** 16, 2 ** 24] as const

export type Phase = 'waiting' | 'idle' | 'down' | 'up' | 'film' | 'call' | 'walk'

export interface Watch {
  phase(now: Phase): void
  /** The rate since the last word, Mb/s, or the delay, ms, for the eye alone: what counts is computed from the samples. */
  rate(value: number): void
}

/** What is asked for. */
export interface Test {
  /** Its id. */
  id: string
  to: Place
  /** Most bytes each way. */
  mostBytes: number
  /** Whether it waits until no other tests, or goes beside others that began with it. */
  turn: 'alone' | 'beside'
}

export type Interruption = RawTest['interruptions'][number]

/**
 * Runs a test to a place and gives back its samples, also when something came between; the signal's reason says what did. It runs
 * apart from the page, whose drawing would add to the delays.
 */
export async function measure(
  { id, to, mostBytes, turn }: Test,
  watch: Watch,
  stop: AbortSignal,
): Promise<RawTest> {
  const began = performance.now()
  const wallBegan = Date.now()
  const now = () => performance.now() - began
  const raw: RawTest = {
    idle: [],
    down: { arrived: [], loaded: [] },
    up: { arrived: [], loaded: [] },
    steady_ms: 0,
    wall_ms: 0,
    interruptions: [],
  }
  const spoil = (what: Interruption) => raw.interruptions.push(what)
  const ended = () => stop.aborted || raw.interruptions.length > 0

  let counting = false
  const line = openLine(to, id, turn, now, {
    waiting: () => watch.phase('waiting'),
    broken: () => spoil('broken'),
    answered: (far, bytes) => counting && raw.up.arrived.push({ at_ms: far, bytes }),
  })

  /** Runs streams for the length of a transfer, with exchanges meanwhile. */
  async function transfer(
    stream: (signal: AbortSignal) => Promise<void>,
    loaded: RawTest['idle'],
    bytes: () => number,
    count: () => void,
  ) {
    const over = new AbortController()
    const begun = now()
    const streams = Array.from({ length: STREAMS }, async () => {
      while (!over.signal.aborted) {
        try {
          await stream(over.signal)
        } catch {
          if (over.signal.aborted) return
          // A stream that broke by itself is begun again after a moment; the exchanges tell whether the connection is there.
          await rest(200)
        }
      }
    })
    let told = { at: begun, bytes: 0 }
    count()
    while (now() - begun < TRANSFER_MS && !ended() && (bytes() < mostBytes || now() - begun < 2500)) {
      void line.exchange(loaded)
      await rest(COUNT_MS)
      count()
      if (now() - told.at > 200) {
        watch.rate(((bytes() - told.bytes) * 8) / (now() - told.at) / 1000)
        told = { at: now(), bytes: bytes() }
      }
    }
    over.abort()
    await Promise.all(streams)
    await Promise.race([line.exchange(loaded), rest(PATIENCE_MS)])
  }

  try {
    await line.turn
    if (!ended()) watch.phase('idle')
    for (let index = 0; index < IDLE_EXCHANGES && !ended(); index++) {
      const late = rest(PATIENCE_MS).then(() => 'late')
      if ((await Promise.race([line.exchange(raw.idle), late])) === 'late') spoil('broken')
      await rest(IDLE_PAUSE_MS)
    }

    let received = 0
    if (!ended()) {
      watch.phase('down')
      await transfer(
        async (signal) => {
          const answer = await fetch(at(to, id, 'down', `&bytes=${DOWN_BYTES}`), {
            signal,
            cache: 'no-store',
          })
          const reader = answer.body?.getReader()
          for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
            received += part.value.length
          }
        },
        raw.down.loaded,
        () => received,
        () => raw.down.arrived.push({ at_ms: now(), bytes: received }),
      )
    }

    if (!ended()) {
      watch.phase('up')
      counting = true
      const noise = new Uint8Array(2 ** 16).map(() => Math.random() * 256)
      let size: number = UP_BYTES[0]
      await transfer(
        async (signal) => {
          const begun = now()
          const body = new Blob(Array.from({ length: Math.ceil(size / noise.length) }, () => noise))
          await fetch(at(to, id, 'up'), { method: 'POST', body, signal, cache: 'no-store' })
          // Each request is to take about half a second.
          const next = (body.size * 500) / Math.max(now() - begun, 1)
          size = Math.min(Math.max(next, UP_BYTES[0]), UP_BYTES[1])
        },
        raw.up.loaded,
        () => raw.up.arrived.at(-1)?.bytes ?? 0,
        () => {},
      )
      counting = false
      // Answers to exchanges may overtake one another; counts go by the far side's clock.
      raw.up.arrived.sort((a, b) => a.at_ms - b.at_ms)
    }
  } finally {
    line.close()
  }
  if (stop.aborted) spoil(stop.reason as Interruption)
  raw.steady_ms = now()
  raw.wall_ms = Date.now() - wallBegan
  return raw
}

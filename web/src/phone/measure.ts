import type { RawTest } from '../api/types'

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
/** Longest wait for an exchange that is on its way, ms. */
const PATIENCE_MS = 6000
/** One request of a download, bytes: more than a transfer gets through. */
const DOWN_BYTES = 2 ** 31
/** Smallest and largest request of an upload, bytes. */
const UP_BYTES = [2 ** 16, 2 ** 24] as const

export type Phase = 'waiting' | 'idle' | 'down' | 'up'

export interface Watch {
  phase(now: Phase): void
  /** The rate since the last word, Mb/s, for the eye alone: what counts is computed from the samples. */
  rate(mbps: number): void
}

const rest = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** Where a test goes. */
export interface Place {
  /** Origin of the far side. */
  origin: string
  token: string
}

/** What is asked for. */
export interface Test {
  /** Its id. */
  id: string
  to: Place
  /** Most bytes each way. */
  mostBytes: number
}

export type Interruption = RawTest['interruptions'][number]

/**
 * Runs a test to a place and gives back its samples, also when something came between; the signal's reason says what did. It runs
 * apart from the page, whose drawing would add to the delays.
 */
export async function measure(
  { id, to: { origin, token }, mostBytes }: Test,
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
  const query = (more = '') => `?token=${encodeURIComponent(token)}&test=${id}${more}`
  const ended = () => stop.aborted || raw.interruptions.length > 0

  // The line: exchanges, each with the count and the clock of the far side.
  const socket = new WebSocket(`${origin.replace(/^http/, 'ws')}/measure/line${query()}`)
  const asked = new Map<string, { at: number; loaded: RawTest['idle']; answered: () => void }>()
  let counting = false
  let ready: () => void = () => {}
  const turn = new Promise<void>((done) => (ready = done))
  socket.onmessage = ({ data }: MessageEvent<string>) => {
    if (data === 'wait') watch.phase('waiting')
    else if (data === 'go') ready()
    else {
      const [number = '', bytes, far] = data.split(' ')
      const own = asked.get(number)
      if (!own) return
      asked.delete(number)
      own.loaded.push({ at_ms: own.at, took_ms: now() - own.at, far_ms: Number(far) })
      if (counting) raw.up.arrived.push({ at_ms: Number(far), bytes: Number(bytes) })
      own.answered()
    }
  }
  socket.onclose = socket.onerror = () => {
    if (!done) spoil('broken')
    ready()
    asked.forEach((own) => own.answered())
  }
  let done = false
  let number = 0
  function exchange(into: RawTest['idle']): Promise<void> {
    if (socket.readyState !== WebSocket.OPEN) return Promise.resolve()
    return new Promise((answered) => {
      asked.set(String(++number), { at: now(), loaded: into, answered })
      socket.send(String(number))
    })
  }

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
      void exchange(loaded)
      await rest(COUNT_MS)
      count()
      if (now() - told.at > 200) {
        watch.rate(((bytes() - told.bytes) * 8) / (now() - told.at) / 1000)
        told = { at: now(), bytes: bytes() }
      }
    }
    over.abort()
    await Promise.all(streams)
    await Promise.race([exchange(loaded), rest(PATIENCE_MS)])
  }

  try {
    await turn
    if (!ended()) watch.phase('idle')
    for (let index = 0; index < IDLE_EXCHANGES && !ended(); index++) {
      const late = rest(PATIENCE_MS).then(() => 'late')
      if ((await Promise.race([exchange(raw.idle), late])) === 'late') spoil('broken')
      await rest(IDLE_PAUSE_MS)
    }

    let received = 0
    if (!ended()) {
      watch.phase('down')
      await transfer(
        async (signal) => {
          const answer = await fetch(`${origin}/measure/down${query(`&bytes=${DOWN_BYTES}`)}`, {
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
          await fetch(`${origin}/measure/up${query()}`, { method: 'POST', body, signal, cache: 'no-store' })
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
    done = true
    socket.close()
  }
  if (stop.aborted) spoil(stop.reason as Interruption)
  raw.steady_ms = now()
  raw.wall_ms = Date.now() - wallBegan
  return raw
}

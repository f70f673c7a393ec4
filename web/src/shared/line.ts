import type { RawTest } from '../api/types'

/** Longest wait for an exchange that is on its way, ms. */
export const PATIENCE_MS = 6000

export const rest = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** Where a test goes. */
export interface Place {
  /** Origin of the far side. */
  origin: string
  token: string
}

/** Address of a part of a test. */
export const at = ({ origin, token }: Place, id: string, what: string, more = '') =>
  `${origin}/measure/${what}?token=${encodeURIComponent(token)}&test=${id}${more}`

export interface Told {
  /** Another phone tests now. */
  waiting?(): void
  /** The connection is gone, without having been closed. */
  broken(): void
  /** An exchange was answered: clock and count of the far side. */
  answered?(farMs: number, bytes: number): void
}

export interface Line {
  /** Fulfilled when the turn has come, or never will. */
  turn: Promise<void>
  /** One exchange; fulfilled by its answer, at once when there is no connection. What fills it travels both ways. */
  exchange(into: RawTest['idle'], fill?: string): Promise<void>
  isOpen(): boolean
  close(): void
}

/** Opens the line of a test: exchanges, each with the count and the clock of the far side. */
export function openLine(
  to: Place,
  id: string,
  turn: 'alone' | 'beside',
  clock: () => number,
  told: Told,
): Line {
  const socket = new WebSocket(at(to, id, 'line', `&turn=${turn}`).replace(/^http/, 'ws'))
  const asked = new Map<string, { at: number; into: RawTest['idle']; answered: () => void }>()
  let closed = false
  let number = 0
  let ready: () => void = () => {}
  const own = new Promise<void>((done) => (ready = done))
  socket.onmessage = ({ data }: MessageEvent<string>) => {
    if (data === 'wait') return told.waiting?.()
    if (data === 'go') return ready()
    // What filled the exchange comes back before count and clock.
    const [key = '', ...rest] = data.split(' ')
    const found = asked.get(key)
    if (!found) return
    asked.delete(key)
    const far = Number(rest.at(-1))
    found.into.push({ at_ms: found.at, took_ms: clock() - found.at, far_ms: far })
    told.answered?.(far, Number(rest.at(-2)))
    found.answered()
  }
  socket.onclose = socket.onerror = () => {
    if (!closed) told.broken()
    closed = true
    ready()
    asked.forEach(({ answered }) => answered())
  }
  return {
    turn: own,
    exchange(into, fill = '') {
      if (socket.readyState !== WebSocket.OPEN) return Promise.resolve()
      return new Promise((answered) => {
        const key = String(++number)
        asked.set(key, { at: clock(), into, answered })
        socket.send(fill ? `${key} ${fill}` : key)
      })
    },
    isOpen: () => socket.readyState === WebSocket.OPEN,
    close() {
      closed = true
      socket.close()
    },
  }
}

/** Waits until all who are to begin together do; by which name they go, or nothing when the line broke. */
export function gather(to: Place, id: string, tell: (inMs: number) => void, stop: AbortSignal) {
  return new Promise<string | undefined>((done) => {
    const socket = new WebSocket(at(to, id, 'line', '&turn=gather').replace(/^http/, 'ws'))
    socket.onmessage = ({ data }: MessageEvent<string>) => {
      const [word, value = ''] = data.split(' ')
      if (word === 'wait') tell(Number(value))
      else done(value)
    }
    socket.onclose = socket.onerror = () => done(undefined)
    stop.addEventListener('abort', () => {
      socket.close()
      done(undefined)
    })
  })
}

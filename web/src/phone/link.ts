import type { PhoneKept, PhoneView, Picture, Problem, Under } from '../api/types'
import type { Place } from '../shared/line'
import type { UnsentPicture } from './pictures'
import type { Unsent } from './unsent'

const SHELF = 'busy-hen phone'
const VIEW = 'busy-hen phone view'

/** The token this phone was paired by: from the address when it was just scanned, else as kept. */
export function token(): string {
  const scanned = window.location.hash.slice(1)
  if (scanned) {
    localStorage.setItem(SHELF, scanned)
    // Kept here, it need not stand where it can be read over a shoulder.
    history.replaceState(null, '', window.location.pathname)
  }
  return localStorage.getItem(SHELF) ?? ''
}

/** What the server refused, with its code and its words; without a code when it did not answer. */
export class Refusal extends Error {
  constructor(
    readonly code: string | undefined,
    message: string,
  ) {
    super(message)
  }
}

/** Asks the bench, or sends it something: JSON unless it is said to be of another type. */
async function ask<T>(path: string, by: string, body?: unknown, type = 'application/json'): Promise<T> {
  const headers: Record<string, string> = { 'Busy-Hen-Phone': by }
  if (body !== undefined) headers['Content-Type'] = type
  const sent = body === undefined || body instanceof ArrayBuffer ? body : JSON.stringify(body)
  let answer
  try {
    answer = await fetch(path, {
      method: body === undefined ? 'GET' : 'POST',
      headers,
      body: sent,
      signal: AbortSignal.timeout(15_000),
    })
  } catch {
    throw new Refusal(undefined, 'The bench does not answer.')
  }
  if (answer.ok) return (await answer.json()) as T
  const problem = (await answer.json().catch(() => undefined)) as Problem | undefined
  throw new Refusal(
    problem?.code ?? `status ${answer.status}`,
    problem?.detail ?? `The bench answered ${answer.status}.`,
  )
}

/** What to show, from the bench, of tests under these conditions. */
export async function look(under?: Under): Promise<PhoneView> {
  const query = new URLSearchParams()
  if (under) {
    query.set('client', under.client)
    if (under.band) query.set('band', under.band)
    query.set('doors', under.doors)
    query.set('situation', under.situation)
  }
  const view = await ask<PhoneView>(`/api/phone?${query}`, token())
  localStorage.setItem(VIEW, JSON.stringify(view))
  return view
}

export const send = ({ token, run }: Unsent) => ask<PhoneKept>('/api/phone/runs', token, run)

export function sendPicture({ token, id, spot, device, at, note, jpeg }: UnsentPicture) {
  const query = new URLSearchParams({ id, at, note })
  if (spot) query.set('spot', spot)
  if (device) query.set('device', device)
  return ask<Picture>(`/api/phone/pictures?${query}`, token, jpeg, 'image/jpeg')
}

/** The address that a far end sees this phone come from, to tell a relay; none when it does not say. */
export async function seenFrom({ origin, token }: Place): Promise<string | null> {
  try {
    const query = new URLSearchParams({ token })
    const answer = await fetch(`${origin}/measure/seen?${query}`, {
      cache: 'no-store',
      signal: AbortSignal.timeout(3000),
    })
    return answer.ok ? (await answer.text()) || null : null
  } catch {
    return null
  }
}

/** What was shown last, for a page that is loaded anew where the bench can't be reached. */
export function kept(): PhoneView | undefined {
  try {
    return JSON.parse(localStorage.getItem(VIEW) ?? 'null') ?? undefined
  } catch {
    return undefined
  }
}

import type {
  Asked,
  Fault,
  NumberRead,
  PhoneKept,
  PhoneView,
  Picture,
  Problem,
  Quantity,
  Under,
} from '../api/types'
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

/** What was refused, with a code and words; without a code when nothing answered. */
export class Refusal extends Error {
  constructor(
    readonly code: string | undefined,
    message: string,
    /** Whether the bench itself says so: another server may answer at its address. */
    readonly own = false,
    /** What it asks about figures that may mean two numbers, and which of them mean none. */
    readonly figures: { asked: Asked[]; faults: Fault[] } = { asked: [], faults: [] },
  ) {
    super(message)
  }
}

let waiting = 0

/** How many runs and pictures are kept here, so that whoever closes the bench knows. */
export const sayWaiting = (count: number) => (waiting = count)

/** Asks the bench, or sends it something: JSON unless it is said to be of another type. */
async function ask<T>(path: string, by: string, body?: unknown, type = 'application/json'): Promise<T> {
  const headers: Record<string, string> = { 'Busy-Hen-Phone': by, 'Busy-Hen-Waiting': String(waiting) }
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
  const said = (await answer.json().catch(() => undefined)) as unknown
  if (answer.ok && said !== undefined) return said as T
  const own = answer.headers.get('Content-Type')?.startsWith('application/problem+json') ?? false
  const problem = own ? (said as Problem | undefined) : undefined
  if (problem) {
    const { asked = [], faults = [] } = problem
    throw new Refusal(problem.code, problem.detail, true, { asked, faults })
  }
  throw new Refusal(
    `status ${answer.status}`,
    `Something else than the bench answers at this address (${answer.status}).`,
  )
}

/** Only what names the very thing that was sent acknowledges it. */
function acknowledged<T>(got: T, id: string, of: (got: T) => string | undefined): T {
  if (of(got) === id) return got
  throw new Refusal('other', 'Something else than the bench answers at this address.')
}

/** What this phone's clock shows: the bench puts right what was measured by a clock that is off. */
const now = () => new Date().toISOString()

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
  acknowledged(view, 'yes', (got) => (got.round_id ? 'yes' : 'no'))
  keepView(view)
  return view
}

/** Keeps what was shown last, for a page that is loaded anew where the bench can't be reached. */
export const keepView = (view: PhoneView) => localStorage.setItem(VIEW, JSON.stringify(view))

export async function send({ token, run }: Unsent) {
  const got = await ask<PhoneKept>('/api/phone/runs', token, { ...run, sent_at: now() })
  return acknowledged(got, run.id, (kept) => kept.run?.id)
}

/** Figures as they were typed, read by the bench in the way of the home's country. */
export const readNumbers = (numbers: { typed: string; of: Quantity }[]) =>
  ask<NumberRead[]>('/api/phone/numbers', token(), { numbers })

export async function sendPicture({ token, id, spot, device, at, note, jpeg }: UnsentPicture) {
  const query = new URLSearchParams({ id, at, note, sent_at: now() })
  if (spot) query.set('spot', spot)
  if (device) query.set('device', device)
  const got = await ask<Picture>(`/api/phone/pictures?${query}`, token, jpeg, 'image/jpeg')
  return acknowledged(got, id, (kept) => kept.id)
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

/** What was shown last. */
export function kept(): PhoneView | undefined {
  try {
    return JSON.parse(localStorage.getItem(VIEW) ?? 'null') ?? undefined
  } catch {
    return undefined
  }
}

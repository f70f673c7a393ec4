import createClient from 'openapi-fetch'
import { v4 as newId } from 'uuid'

import type { paths } from './schema'
import type { BothChanged, Fault, Problem } from './types'

/** The server's interface, typed from its own description. */
export const api = createClient<paths>({ baseUrl: window.location.origin })

/** Who edits, the same on every page of this browser: undo takes back one's own steps. */
function editor(): string {
  const known = localStorage.getItem('busy-hen editor')
  if (known) return known
  const fresh = newId()
  localStorage.setItem('busy-hen editor', fresh)
  return fresh
}

api.use({
  onRequest({ request }) {
    request.headers.set('Busy-Hen-Editor', editor())
    return request
  },
})

/** A request that was not carried out, with what to tell the user. */
export class ApiProblem extends Error {
  readonly code: string
  readonly faults: Fault[]
  readonly both: BothChanged[]

  constructor(problem: Pick<Problem, 'code' | 'detail' | 'faults' | 'both'>) {
    super(problem.detail)
    this.code = problem.code
    this.faults = problem.faults
    this.both = problem.both
  }
}

let locked: () => void = () => {}

/** Tells when the bench turns out to be locked. */
export function onLocked(tell: () => void) {
  locked = tell
}

/** A request on its way. */
export type Sent<T> = Promise<{ data?: T; error?: unknown; response: Response }>

/** The answer of a request; throws an [ApiProblem] when there is none. */
export async function answer<T>(request: Sent<T>): Promise<T> {
  let result
  try {
    result = await request
  } catch {
    throw new ApiProblem({
      code: 'offline',
      detail: 'The server does not answer. Nothing you entered is lost here; start the server and try again.',
      faults: [],
      both: [],
    })
  }
  if (result.response.ok) return result.data as T
  const problem = result.error as Problem | undefined
  if (problem?.code === 'locked') locked()
  throw new ApiProblem({
    code: problem?.code ?? 'unknown',
    detail: problem?.detail ?? `The server answered ${result.response.status}.`,
    faults: problem?.faults ?? [],
    both: problem?.both ?? [],
  })
}

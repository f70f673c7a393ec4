import createClient from 'openapi-fetch'

import type { paths } from './schema'
import type { Fault, Problem } from './types'

/** The server's interface, typed from its own description. */
export const api = createClient<paths>({ baseUrl: window.location.origin })

/** A request that was not carried out, with what to tell the user. */
export class ApiProblem extends Error {
  readonly code: string
  readonly faults: Fault[]

  constructor(problem: Pick<Problem, 'code' | 'detail' | 'faults'>) {
    super(problem.detail)
    this.code = problem.code
    this.faults = problem.faults
  }
}

/** The answer of a request; throws an [ApiProblem] when there is none. */
export async function answer<T>(
  request: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result
  try {
    result = await request
  } catch {
    throw new ApiProblem({
      code: 'offline',
      detail: 'The server does not answer. Nothing you entered is lost here; start the server and try again.',
      faults: [],
    })
  }
  if (result.response.ok) return result.data as T
  const problem = result.error as Problem | undefined
  throw new ApiProblem({
    code: problem?.code ?? 'unknown',
    detail: problem?.detail ?? `The server answered ${result.response.status}.`,
    faults: problem?.faults ?? [],
  })
}

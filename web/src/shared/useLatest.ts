import { onScopeDispose } from 'vue'

/**
 * Runs one request at a time and, when more are asked for meanwhile, only the last of them: a drag asks dozens of
 * times a second and never waits in a queue.
 */
export function useLatest<A>(work: (argument: A) => Promise<void>): (argument: A) => void {
  let busy = false
  let waiting: { argument: A } | undefined
  let gone = false
  onScopeDispose(() => {
    gone = true
  })

  async function next(argument: A) {
    busy = true
    try {
      await work(argument)
    } finally {
      busy = false
      const last = waiting
      waiting = undefined
      if (last && !gone) void next(last.argument)
    }
  }

  return (argument) => {
    if (busy) waiting = { argument }
    else if (!gone) void next(argument)
  }
}

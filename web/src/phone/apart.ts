import type { Watch } from './measure'
import type { OnTheWay } from './walk'
import type { Jobs, Order, Word } from './worker'

/** Does a job in a thread of its own; covering the page spoils it. `talk` is given the way to say what comes up meanwhile. */
export async function apart<Kind extends keyof Jobs>(
  kind: Kind,
  job: Jobs[Kind]['job'],
  watch: Watch,
  stop: AbortSignal,
  talk?: (say: (word: OnTheWay) => void) => void,
): Promise<Jobs[Kind]['raw']> {
  const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })
  const order = (what: Order) => worker.postMessage(what)
  const stopped = () => order({ stop: 'stopped' })
  const hidden = () => document.visibilityState === 'hidden' && order({ stop: 'hidden' })
  document.addEventListener('visibilitychange', hidden)
  stop.addEventListener('abort', stopped)
  try {
    return await new Promise((done, failed) => {
      worker.onmessage = ({ data }: MessageEvent<Word>) => {
        if ('phase' in data) watch.phase(data.phase)
        else if ('rate' in data) watch.rate(data.rate)
        else done(data.raw as Jobs[Kind]['raw'])
      }
      worker.onerror = () => failed(new Error('The part of this page that tests could not be loaded.'))
      order({ do: kind, job } as Order)
      talk?.(order)
    })
  } finally {
    document.removeEventListener('visibilitychange', hidden)
    stop.removeEventListener('abort', stopped)
    worker.terminate()
  }
}

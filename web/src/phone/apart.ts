import type { RawTest } from '../api/types'
import type { Test, Watch } from './measure'
import type { Order, Word } from './worker'

/** Runs a test in a thread of its own; covering the page spoils it. */
export async function measureApart(test: Test, watch: Watch, stop: AbortSignal): Promise<RawTest> {
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
        else done(data.raw)
      }
      worker.onerror = () => failed(new Error('The part of this page that tests could not be loaded.'))
      order({ run: test })
    })
  } finally {
    document.removeEventListener('visibilitychange', hidden)
    stop.removeEventListener('abort', stopped)
    worker.terminate()
  }
}

import { type Interruption, measure, type Phase, type Test } from './measure'
import type { RawTest } from '../api/types'

/** What the page says: a test to run, and then at most once what came between. */
export type Order = { run: Test } | { stop: Interruption }
/** What is told to the page. */
export type Word = { phase: Phase } | { rate: number } | { raw: RawTest }

const stop = new AbortController()
const say = (word: Word) => postMessage(word)

onmessage = ({ data }: MessageEvent<Order>) => {
  if ('stop' in data) return stop.abort(data.stop)
  const watch = { phase: (phase: Phase) => say({ phase }), rate: (rate: number) => say({ rate }) }
  void measure(data.run, watch, stop.signal).then((raw) => say({ raw }))
}

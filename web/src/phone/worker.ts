import { v4 as newId } from 'uuid'

import type { RawCall, RawFilm, RawTest, RawWalk } from '../api/types'
import { call } from './call'
import { film } from './film'
import type { Place } from '../shared/line'
import { type Interruption, measure, type Phase, type Test } from './measure'
import { type OnTheWay, walk } from './walk'

/** What is to be done, and what it gives back. */
export interface Jobs {
  speed: { job: Test; raw: RawTest }
  film: { job: { id: string; to: Place; mbps: number }; raw: RawFilm }
  call: { job: { id: string; to: Place; mbps: number }; raw: RawCall }
  walk: { job: { to: Place; spot: string }; raw: RawWalk }
}

/** What the page says: a job, then what comes up on the way, and at most once what came between. */
export type Order =
  | { [Kind in keyof Jobs]: { do: Kind; job: Jobs[Kind]['job'] } }[keyof Jobs]
  | { stop: Interruption }
  | OnTheWay
/** What is told to the page. */
export type Word = { phase: Phase } | { rate: number } | { raw: Jobs[keyof Jobs]['raw'] }

const stop = new AbortController()
const say = (word: Word) => postMessage(word)
const watch = { phase: (phase: Phase) => say({ phase }), rate: (rate: number) => say({ rate }) }
let heard: (word: OnTheWay) => void = () => {}

function work(order: Extract<Order, { do: string }>): Promise<Jobs[keyof Jobs]['raw']> {
  switch (order.do) {
    case 'speed':
      return measure(order.job, watch, stop.signal)
    case 'film':
      return film(order.job, watch, stop.signal)
    case 'call':
      return call(order.job, watch, stop.signal)
    case 'walk':
      return walk({ ...order.job, id: newId }, watch, stop.signal, (listener) => (heard = listener))
  }
}

onmessage = ({ data }: MessageEvent<Order>) => {
  if ('stop' in data) stop.abort(data.stop)
  else if ('do' in data) void work(data).then((raw) => say({ raw }))
  else heard(data)
}

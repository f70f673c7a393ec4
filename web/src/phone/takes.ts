import { TRANSFER_MS } from './measure'
import type { PhoneKept } from '../api/types'

/** Data that a run may use at most each way, bytes. */
export const LIMITS = [
  { title: 'no limit', value: Infinity },
  { title: '200 MB each way', value: 200e6 },
  { title: '50 MB each way', value: 50e6 },
]

/** How long and how much data a run takes: told from the legs of the one before it, else by an example. */
export function takes(legs: number, mostBytes: number, last: PhoneKept | undefined): string {
  const seconds = legs * Math.round((2 * TRANSFER_MS) / 1000 + 2)
  if (mostBytes !== Infinity) return `${seconds} s, at most ${(2 * legs * mostBytes) / 1e6} MB a run`
  const seen = [last?.run, last?.beyond].flatMap((run) =>
    run?.source === 'phone' && run.outcome.kind === 'measured'
      ? [run.outcome.down_mbps + run.outcome.up_mbps]
      : [],
  )
  if (seen.length < legs) return `${seconds} s a run; at 900 Mb/s that is over a gigabyte`
  const megabytes = (seen.reduce((sum, own) => sum + own) * TRANSFER_MS) / 8 / 1000
  return `${seconds} s, about ${megabytes < 10 ? megabytes.toFixed(1) : megabytes.toFixed(0)} MB a run`
}

import type { LengthUnit, MarkRow, Purpose } from '../api/types'
import { farAway, speed } from './words'

const MARKED: Purpose[] = ['wired_ceiling', 'range_walk', 'outlet_trial', 'placement_trial', 'route_walk']

/** Whether the runs of such a round are told apart by marks. */
export const isMarked = (purpose: Purpose | undefined) => MARKED.includes(purpose ?? 'rooms')

/** What a mark is called; where a node is carried about, with where one stood. */
export function markTitle({ mark }: MarkRow, units: LengthUnit, weakRoom?: string): string {
  return [
    mark.name,
    mark.distance_m == null ? '' : farAway(mark.distance_m, units),
    mark.returning ? 'way back' : '',
    weakRoom === undefined ? '' : mark.beside_node ? 'beside the node' : `in ${weakRoom}`,
  ]
    .filter(Boolean)
    .join(', ')
}

/** What was heard at a mark, band by band. */
export function heardWords(row: MarkRow | null | undefined): string {
  const of = (own: MarkRow['heard'][number]) =>
    [
      own.band ? `${own.band} GHz` : '',
      own.signal_dbm == null ? '' : `${own.signal_dbm.toFixed(0)} dBm`,
      own.link_rate_mbps == null ? '' : `link ${speed(own.link_rate_mbps)} Mb/s`,
    ]
      .filter(Boolean)
      .join(' ')
  return row?.heard.map(of).join('; ') || '–'
}

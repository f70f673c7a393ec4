import type { DrawnRoom } from '../api/types'

/** A room as a path: all of its parts. */
export function roomPath(room: Pick<DrawnRoom, 'parts'>): string {
  const of = (part: DrawnRoom['parts'][number]) =>
    `M${part.x_m} ${part.y_m}h${part.width_m}v${part.depth_m}h${-part.width_m}z`
  return room.parts.map(of).join('')
}

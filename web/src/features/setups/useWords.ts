import { computed, type ComputedRef } from 'vue'

import type { Device, DrawnHop, DrawnRoom, HomeView } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { area, speed } from '../../shared/words'
import { useBench } from '../bench'
import { type Label, type Line, type Rect, placeAt, placeIn } from './labels'
import type { Stage } from './useStage'

interface Pixel {
  x: number
  y: number
}

/** All words on the map: names and figures of rooms, hops and fine lines, placed so that none covers another. */
export function useWords(of: {
  stage: Stage
  hops: ComputedRef<{ hop: DrawnHop; a: Pixel; b: Pixel }[]>
  devices: ComputedRef<{ device: Device; at: Pixel }[]>
  whole: ComputedRef<Rect>
  view: () => HomeView
  devicePx: number
}) {
  const { stage, hops, devices, whole } = of
  const bench = useBench()
  const catalogue = useCatalogue()
  const levels = computed(() => stage.placed.value)
  const shades = computed(() => bench.light?.shades ?? [])
  const roomsOf = (id: string) => of.view().drawing.rooms.filter((room) => room.level_id === id)
  const litOf = (id: string) => bench.light?.levels.find((own) => own.level_id === id)
  const row = (room: DrawnRoom) => bench.light?.ledger.find((own) => own.room_id === room.room_id)

  /** What stands in a room besides its name: the figure of the prediction or of the readings. */
  function figure(room: DrawnRoom): string {
    const own = row(room)
    if (!own) return ''
    if (bench.showMeasured) return own.measured ? speed(own.measured.down_mbps.median) : 'not tested'
    return own.no_port ? 'no port' : speed(own.predicted.down.middle)
  }

  /** All words on the map, placed so that none covers another; devices come first. */
  const words = computed(() => {
    const taken: Rect[] = devices.value.map(({ at }) => ({
      x: at.x - of.devicePx / 2 - 2,
      y: at.y - of.devicePx / 2 - 2,
      width: of.devicePx + 4,
      height: of.devicePx + 4,
    }))
    const hopNames: { id: string; label: Label; broken: boolean }[] = []
    for (const { hop, a, b } of hops.value) {
      const text = hop.down_mbps == null ? 'no link' : `${speed(hop.down_mbps)} Mb/s`
      const along = [0.5, 0.42, 0.58, 0.34, 0.66, 0.26, 0.74]
      const spots = along.flatMap((part) => {
        const [x, y] = [a.x + (b.x - a.x) * part, a.y + (b.y - a.y) * part]
        return [
          { x, y },
          { x: x + 44, y },
          { x, y: y + 16 },
        ]
      })
      const label = placeAt(spots, [{ text, size: 11.5, strong: true }], whole.value, taken)
      if (label) hopNames.push({ id: hop.device, label, broken: hop.down_mbps == null })
    }
    const rooms: { room: DrawnRoom; label: Label; ink: boolean }[] = []
    for (const level of levels.value) {
      const lit = litOf(level.level_id)
      for (const room of roomsOf(level.level_id)) {
        const part = [...room.parts].sort((a, b) => b.width_m * b.depth_m - a.width_m * a.depth_m)[0] ?? room
        const box = stage.box(level.level_id, part)
        const told = figure(room)
        const dead = lit?.dead_zones.find((own) => own.room_id === room.room_id)
        const lack: Line[] =
          dead && !bench.showMeasured
            ? [{ text: `not in ${area(dead.area_m2, of.view().home.units)}`, size: 10.5 }]
            : []
        const name = (size: number): Line => ({ text: room.name, size, strong: true })
        const value = (size: number): Line => ({ text: told, size })
        const ways: Line[][] = told
          ? [
              [name(12.5), value(12), ...lack],
              [name(12.5), value(12)],
              [name(11), value(11)],
              [{ text: `${room.name} ${told}`, size: 10.5, strong: true }],
              [name(9.5), value(10)],
              [value(11)],
              [value(9.5)],
            ]
          : [[name(12.5)], [name(11)], [name(9.5)]]
        const label = placeIn(box, ways, taken)
        if (label) rooms.push({ room, label, ink: inkOn(room) })
      }
    }
    const figures = levels.value.flatMap((level) =>
      (litOf(level.level_id)?.fine_lines ?? []).flatMap((line) => {
        if (line.x_m == null || line.y_m == null || bench.layer.kind !== 'works' || bench.showMeasured)
          return []
        const at = stage.px({ level_id: level.level_id, x_m: line.x_m, y_m: line.y_m })
        const text = line.whole_plan ? `plan ${line.figure}` : line.figure
        const label = at && placeAt([at], [{ text, size: 10 }], level, taken)
        return label ? [{ label, key: `${level.level_id} ${text}` }] : []
      }),
    )
    return { hopNames, rooms, figures }
  })

  /** Whether ink reads in a room: the shade of its figure decides; other layers get a dark rim around pale words. */
  function inkOn(room: DrawnRoom): boolean {
    const own = row(room)
    const step = bench.showMeasured ? own?.measured_step : own?.predicted.step
    const at = catalogue.value?.steps.findIndex((own) => own.step === step) ?? -1
    return bench.layer.kind === 'works' && (shades.value[at]?.ink ?? false)
  }

  return words
}

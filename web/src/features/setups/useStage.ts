import { useElementSize } from '@vueuse/core'
import { computed, reactive, type Ref } from 'vue'

import type { Drawing } from '../../api/types'

/** Room for the names of storeys beside or above them, and between storeys; pixels. */
const NAMES_PX = 74
const EDGE_PX = 14
const TITLE_PX = 22
const BETWEEN_PX = 26

interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** A storey on the stage, in pixels. */
export interface Placed extends Box {
  level_id: string
  name: string
  area_m2: number
  /** Where its origin lies. */
  originX: number
  originY: number
}

interface Laid {
  turned: boolean
  column: boolean
  scale: number
  levels: Placed[]
}

/** Where a place of the house lies on the stage, and back. */
export function useStage(
  element: Ref<SVGSVGElement | null>,
  drawing: () => Drawing,
  /** Levels to show, lowest first; all when not given. */
  shown: () => string | undefined,
  /** Pixels at the bottom that the legend takes. */
  below: () => number,
) {
  const { width, height } = useElementSize(element)
  const zoom = reactive({ by: 1, x: 0, y: 0 })

  const levels = computed(() =>
    drawing().levels.filter((own) => own.width_m > 0 && (!shown() || own.level_id === shown())),
  )

  /** A level's extent on the screen, in metres: as it is, or with north to the left. */
  function extent(own: Drawing['levels'][number], turned: boolean): Box {
    return turned
      ? { x: own.y_m, y: -(own.x_m + own.width_m), width: own.depth_m, height: own.width_m }
      : { x: own.x_m, y: own.y_m, width: own.width_m, height: own.depth_m }
  }

  /** All levels at one scale: over one another, storeys lined up, or beside one another. */
  function lay(turned: boolean, column: boolean): Laid {
    // The highest storey stands on top, or rightmost.
    const own = levels.value.map((level) => ({ level, box: extent(level, turned) }))
    if (column) own.reverse()
    const least = (of: (box: Box) => number) => Math.min(...own.map((one) => of(one.box)))
    const most = (of: (box: Box) => number) => Math.max(...own.map((one) => of(one.box)))
    const [x0, x1] = [least((box) => box.x), most((box) => box.x + box.width)]
    const [y0, y1] = [least((box) => box.y), most((box) => box.y + box.height)]
    const sum = (of: (box: Box) => number) => own.reduce((total, one) => total + of(one.box), 0)
    const gaps = BETWEEN_PX * (own.length - 1)
    const left = column ? NAMES_PX : EDGE_PX
    const top = column ? EDGE_PX : EDGE_PX + TITLE_PX
    const wide = width.value - left - EDGE_PX - (column ? 0 : gaps)
    const high = height.value - top - EDGE_PX - below() - (column ? gaps : 0)
    const [across, down] = column ? [x1 - x0, sum((box) => box.height)] : [sum((box) => box.width), y1 - y0]
    const scale = Math.max(1, Math.min(wide / across, high / down))
    // What is left over is shared out on both sides.
    const spare = column ? Math.max(0, (high - down * scale) / 2) : Math.max(0, (wide - across * scale) / 2)
    let at = column ? top + spare : left + spare
    const placed = own.map(({ level, box }) => {
      const [originX, originY] = column
        ? [left - x0 * scale, at - box.y * scale]
        : [at - box.x * scale, top + Math.max(0, (high - down * scale) / 2) - y0 * scale]
      at += (column ? box.height : box.width) * scale + BETWEEN_PX
      const { level_id, name, area_m2 } = level
      return {
        level_id,
        name,
        area_m2,
        originX,
        originY,
        x: originX + box.x * scale,
        y: originY + box.y * scale,
        width: box.width * scale,
        height: box.height * scale,
      }
    })
    return { turned, column, scale, levels: placed }
  }

  const laid = computed<Laid>(() => {
    if (levels.value.length === 0 || !width.value)
      return { turned: false, column: true, scale: 1, levels: [] }
    const ways = [lay(false, true), lay(false, false), lay(true, true), lay(true, false)]
    // North stays up, and storeys over one another, unless another way shows the house noticeably larger.
    return ways.reduce((best, way) => (way.scale > best.scale * 1.12 ? way : best))
  })
  const turned = computed(() => laid.value.turned)
  const scale = computed(() => laid.value.scale * zoom.by)
  const onScreen = (x: number, y: number) => ({ x: x * zoom.by + zoom.x, y: y * zoom.by + zoom.y })
  const placed = computed(() =>
    laid.value.levels.map((own) => ({
      ...own,
      ...onScreen(own.x, own.y),
      width: own.width * zoom.by,
      height: own.height * zoom.by,
    })),
  )

  /** Transform of a level's own drawing, which is in metres. */
  function transform(level_id: string): string {
    const own = laid.value.levels.find((level) => level.level_id === level_id)
    if (!own) return ''
    const { x, y } = onScreen(own.originX, own.originY)
    return `translate(${x} ${y}) scale(${scale.value})${turned.value ? ' rotate(-90)' : ''}`
  }

  /** Pixels of a place; nothing when its level is not shown. */
  function px(at: { level_id: string; x_m: number; y_m: number }): { x: number; y: number } | undefined {
    const own = laid.value.levels.find((level) => level.level_id === at.level_id)
    if (!own) return undefined
    const [x, y] = turned.value ? [at.y_m, -at.x_m] : [at.x_m, at.y_m]
    return onScreen(own.originX + x * laid.value.scale, own.originY + y * laid.value.scale)
  }

  /** A rectangle of a level in pixels. */
  function box(level_id: string, of: { x_m: number; y_m: number; width_m: number; depth_m: number }): Box {
    const a = px({ level_id, x_m: of.x_m, y_m: of.y_m })
    const b = px({ level_id, x_m: of.x_m + of.width_m, y_m: of.y_m + of.depth_m })
    if (!a || !b) return { x: 0, y: 0, width: 0, height: 0 }
    return {
      x: Math.min(a.x, b.x),
      y: Math.min(a.y, b.y),
      width: Math.abs(b.x - a.x),
      height: Math.abs(b.y - a.y),
    }
  }

  /** The place under pixels of the stage; nothing when it lies far from every level. */
  function place(x: number, y: number): { level_id: string; x_m: number; y_m: number } | undefined {
    const reach = (BETWEEN_PX / 2) * zoom.by
    const own = placed.value.find(
      (level) =>
        x >= level.x - reach &&
        x <= level.x + level.width + reach &&
        y >= level.y - reach &&
        y <= level.y + level.height + reach,
    )
    const origin = own && laid.value.levels.find((level) => level.level_id === own.level_id)
    if (!origin) return undefined
    const zero = onScreen(origin.originX, origin.originY)
    const [right, down] = [(x - zero.x) / scale.value, (y - zero.y) / scale.value]
    const round = (value: number) => Math.round(value * 100) / 100
    return turned.value
      ? { level_id: origin.level_id, x_m: round(-down), y_m: round(right) }
      : { level_id: origin.level_id, x_m: round(right), y_m: round(down) }
  }

  /** Brings what lies at these pixels nearer or farther, keeping it in place. */
  function zoomAt(x: number, y: number, factor: number) {
    const by = Math.min(8, Math.max(1, zoom.by * factor))
    const change = by / zoom.by
    zoom.x = x - (x - zoom.x) * change
    zoom.y = y - (y - zoom.y) * change
    zoom.by = by
    keepInside()
  }

  function pan(dx: number, dy: number) {
    zoom.x += dx
    zoom.y += dy
    keepInside()
  }

  /** What is shown always fills the stage: nothing is lost out of sight. */
  function keepInside() {
    zoom.x = Math.min(0, Math.max(width.value * (1 - zoom.by), zoom.x))
    zoom.y = Math.min(0, Math.max(height.value * (1 - zoom.by), zoom.y))
  }

  function whole() {
    Object.assign(zoom, { by: 1, x: 0, y: 0 })
  }

  return { width, height, zoom, laid, placed, turned, scale, transform, px, box, place, zoomAt, pan, whole }
}

export type Stage = ReturnType<typeof useStage>

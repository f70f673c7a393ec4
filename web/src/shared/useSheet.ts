import { useElementSize } from '@vueuse/core'
import { computed, type ComputedRef, type Ref } from 'vue'

import type { Drawing } from '../api/types'

/** How a level lies on the screen. */
export interface Sheet {
  /** The visible part, in metres of the turned drawing. */
  viewBox: ComputedRef<string>
  /** Whether north points left, so that a long narrow home fills a wide screen. */
  turned: ComputedRef<boolean>
  /** Transform of the group that holds the drawing. */
  transform: ComputedRef<string>
  /** Transform that sets text at a place upright again. */
  upright(x: number, y: number): string
  /** So many pixels in metres of the drawing. */
  px(pixels: number): number
  /** Font size in metres for a label that should fit across a room, at most so many pixels. */
  fit(room: { width_m: number; depth_m: number }, label: string, pixels: number): number
}

/** Lays a level out in an element: all of it, upright labels, strokes in pixels. */
export function useSheet(
  element: Ref<HTMLElement | SVGElement | null>,
  drawing: () => Drawing,
  levelId: () => string | undefined,
  /** Whether it is turned; when not given, long narrow homes are. */
  turn?: () => boolean,
): Sheet {
  const { width, height } = useElementSize(element)
  const level = computed(() => drawing().levels.find((own) => own.level_id === levelId()))
  const turned = computed(() => {
    if (turn) return turn()
    const widest = Math.max(...drawing().levels.map((own) => own.width_m), 1)
    const deepest = Math.max(...drawing().levels.map((own) => own.depth_m), 1)
    return deepest > widest * 1.3
  })
  const box = computed(() => {
    const own = level.value
    if (!own || own.width_m === 0) return { x: 0, y: 0, width: 10, height: 6 }
    return turned.value
      ? { x: own.y_m, y: -(own.x_m + own.width_m), width: own.depth_m, height: own.width_m }
      : { x: own.x_m, y: own.y_m, width: own.width_m, height: own.depth_m }
  })
  const margin = computed(() => Math.max(box.value.width, box.value.height) * 0.04 + 0.3)
  const scale = computed(() => {
    const wide = (width.value || 700) / (box.value.width + 2 * margin.value)
    const high = (height.value || 400) / (box.value.height + 2 * margin.value)
    return Math.min(wide, high)
  })
  const viewBox = computed(() => {
    const { x, y, width: w, height: h } = box.value
    const m = margin.value
    return `${x - m} ${y - m} ${w + 2 * m} ${h + 2 * m}`
  })
  return {
    viewBox,
    turned,
    transform: computed(() => (turned.value ? 'rotate(-90)' : '')),
    upright: (x, y) => `translate(${x} ${y})${turned.value ? ' rotate(90)' : ''}`,
    px: (pixels) => pixels / scale.value,
    fit: (room, label, pixels) => {
      const across = turned.value ? room.depth_m : room.width_m
      // A letter is a good half as wide as it is high.
      return Math.min(pixels / scale.value, Math.max((across * 0.9) / (label.length * 0.56), 8 / scale.value))
    },
  }
}

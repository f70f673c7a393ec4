import { ref, type Ref } from 'vue'

import type { HouseChange, HouseEdit } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import type { useHouse } from './useHouse'

/** A place in the house, metres east and south. */
export interface Place {
  x: number
  y: number
}

/** What is done when something is dragged so far. */
export type Dragged = (east: number, south: number) => HouseChange

/** Nearer than this, in pixels, a press is a press and no drag. */
const THRESHOLD = 4

/** Dragging on the drawing: shown as the lines would draw it, written into them when it is dropped. */
export function useDrag(house: ReturnType<typeof useHouse>, inner: Ref<SVGGElement | null>) {
  const dragging = ref(false)
  let begun: { at: Place; screen: Place; base: HouseEdit; what: Dragged } | undefined

  /** Where a pointer is in the house. */
  function placeOf(event: { clientX: number; clientY: number }): Place {
    const matrix = inner.value?.getScreenCTM()
    if (!matrix) return { x: 0, y: 0 }
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
    return { x: point.x, y: point.y }
  }

  const show = useLatest(
    async ({ base, change, snap }: { base: HouseEdit; change: HouseChange; snap: boolean }) => {
      try {
        const { drawing } = await house.rewritten(base, [change], snap)
        house.refused.value = ''
        if (dragging.value) house.preview.value = drawing
      } catch (error) {
        house.refused.value = (error as Error).message
      }
    },
  )

  function start(event: PointerEvent, what: Dragged) {
    if (event.button !== 0 || !house.edit.value) return
    const base = JSON.parse(JSON.stringify(house.edit.value)) as HouseEdit
    begun = { at: placeOf(event), screen: { x: event.clientX, y: event.clientY }, base, what }
  }

  function move(event: PointerEvent) {
    if (!begun) return
    // The button was let go where nobody saw it.
    if (event.buttons === 0) return cancel()
    const far = Math.hypot(event.clientX - begun.screen.x, event.clientY - begun.screen.y)
    if (!dragging.value && far < THRESHOLD) return
    if (!dragging.value) (event.currentTarget as Element).setPointerCapture(event.pointerId)
    dragging.value = true
    show({ base: begun.base, change: changeAt(event), snap: !event.altKey })
  }

  function changeAt(event: PointerEvent): HouseChange {
    const at = placeOf(event)
    return begun!.what(at.x - begun!.at.x, at.y - begun!.at.y)
  }

  /** Writes what was dragged; false when it was a press only. */
  async function end(event: PointerEvent): Promise<boolean> {
    if (!begun) return false
    const change = dragging.value ? changeAt(event) : undefined
    cancel()
    if (!change) return false
    await house.write([change], !event.altKey)
    house.preview.value = undefined
    return true
  }

  function cancel() {
    begun = undefined
    dragging.value = false
    house.preview.value = undefined
  }

  return { dragging, placeOf, start, move, end, cancel }
}

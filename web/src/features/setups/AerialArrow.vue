<script setup lang="ts">
import { ref } from 'vue'

import type { Aerial } from '../../api/types'

/** Where an aerial points: an arrow on the map that is dragged, or turned by keys. */
const props = defineProps<{ aerial: Exclude<Aerial, { kind: 'built_in' }>; turned: boolean; name: string }>()
const emit = defineEmits<{ turn: [towards: number] }>()

const REACH_PX = 46
const STEP = 5
const grip = ref<SVGGElement | null>(null)

/** North is up, or to the left where the map is turned. */
const onScreen = () => props.aerial.towards - (props.turned ? 90 : 0)

function drag(event: PointerEvent) {
  if (!event.buttons || !grip.value) return
  const svg = grip.value.ownerSVGElement
  const matrix = (grip.value.parentNode as SVGGraphicsElement).getScreenCTM()
  if (!svg || !matrix) return
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  const angle = (Math.atan2(at.x, -at.y) * 180) / Math.PI + (props.turned ? 90 : 0)
  turnTo(Math.round(angle / STEP) * STEP)
}

function turnTo(degrees: number) {
  emit('turn', ((degrees % 360) + 360) % 360)
}

function key(event: KeyboardEvent) {
  const by = { ArrowLeft: -STEP, ArrowRight: STEP, ArrowUp: STEP, ArrowDown: -STEP }[event.key]
  if (by === undefined) return
  event.preventDefault()
  event.stopPropagation()
  turnTo(props.aerial.towards + by)
}
</script>

<template>
  <g
    ref="grip"
    class="arrow"
    :transform="`rotate(${onScreen()})`"
    role="slider"
    tabindex="0"
    :aria-label="`Where the aerial of ${name} points`"
    aria-valuemin="0"
    aria-valuemax="360"
    :aria-valuenow="aerial.towards"
    :aria-valuetext="`${aerial.towards} degrees clockwise from north`"
    @pointerdown.stop="($event.currentTarget as Element).setPointerCapture($event.pointerId)"
    @pointermove.stop="drag"
    @pointerup.stop
    @keydown="key"
  >
    <path :d="`M0 -15V${-REACH_PX}M-6 ${-REACH_PX + 9}L0 ${-REACH_PX}L6 ${-REACH_PX + 9}`" class="under" />
    <path :d="`M0 -15V${-REACH_PX}M-6 ${-REACH_PX + 9}L0 ${-REACH_PX}L6 ${-REACH_PX + 9}`" />
    <circle :cy="-REACH_PX" r="13" class="hit" />
  </g>
</template>

<style scoped>
.arrow {
  cursor: grab;
  outline: none;
}

.arrow path {
  fill: none;
  stroke: var(--comb);
  stroke-width: 3px;
}

.arrow .under {
  stroke: #fff;
  stroke-width: 6px;
}

.hit {
  fill: transparent;
}

.arrow:focus-visible .hit {
  stroke: #1f5fa8;
  stroke-width: 3px;
}
</style>

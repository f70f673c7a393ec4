<script setup lang="ts">
import { ref } from 'vue'

import { useCatalogue } from '../../shared/useCatalogue'

defineProps<{ empty: boolean }>()
const emit = defineEmits<{
  place: [kit: string, pointer: { clientX: number; clientY: number } | undefined]
  close: []
}>()

const catalogue = useCatalogue()
const ghost = ref<{ name: string; x: number; y: number }>()
let held: { kit: string; x: number; y: number } | undefined
let dropped = false

function grab(event: PointerEvent, kit: string) {
  held = { kit, x: event.clientX, y: event.clientY }
  dropped = false
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}

function carry(event: PointerEvent, name: string) {
  if (!held) return
  const far = Math.hypot(event.clientX - held.x, event.clientY - held.y) > 6
  if (far || ghost.value) ghost.value = { name, x: event.clientX, y: event.clientY }
}

function drop(event: PointerEvent) {
  if (held && ghost.value) {
    dropped = true
    emit('place', held.kit, { clientX: event.clientX, clientY: event.clientY })
  }
  held = undefined
  ghost.value = undefined
}

/** A click or key without a drag puts the device into the chosen room. */
function click(kit: string) {
  if (!dropped) emit('place', kit, undefined)
  dropped = false
}
</script>

<template>
  <section aria-label="Kit">
    <p class="small">
      {{
        empty
          ? 'Place the router first: drag it to where the line enters.'
          : 'Drag kit onto the map, or press it to put it into the chosen room.'
      }}
      <button v-if="!empty" type="button" class="close" @click="emit('close')">put the kit away</button>
    </p>
    <ul>
      <li v-for="kit in catalogue?.kit" :key="kit.key">
        <button
          type="button"
          :data-kit="kit.key"
          @pointerdown="grab($event, kit.key)"
          @pointermove="carry($event, kit.name)"
          @pointerup="drop"
          @pointercancel="drop"
          @click="click(kit.key)"
        >
          {{ kit.name }}
        </button>
      </li>
    </ul>
    <div v-if="ghost" class="ghost" :style="{ left: `${ghost.x + 10}px`, top: `${ghost.y + 10}px` }">
      {{ ghost.name }}
    </div>
  </section>
</template>

<style scoped>
/* A drawer over the map's edge. */
section {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: 236px;
  display: flex;
  flex-direction: column;
  padding: 8px 10px;
  background: #fff;
  border-left: 1px solid var(--quiet);
  z-index: 3;
}

p {
  margin: 0 0 6px;
}

ul {
  list-style: none;
  padding: 0;
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}

li button {
  display: block;
  width: 100%;
  border-bottom: 1px solid var(--line);
  padding: 6px 2px;
  font-size: 0.82rem;
  line-height: 1.25;
  text-align: left;
  touch-action: pan-y;
  cursor: grab;
}

li button:hover {
  background: var(--select);
}

.close {
  text-decoration: underline;
  color: var(--quiet);
}

.ghost {
  position: fixed;
  background: var(--ink);
  color: #fff;
  padding: 3px 8px;
  font-size: 0.8rem;
  pointer-events: none;
  z-index: 10;
}
</style>

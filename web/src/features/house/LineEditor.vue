<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { LineFault } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { useBench } from '../bench'
import { useHouse } from './useHouse'
import { lineEditor } from './useLineEditor'

const house = useHouse()
const bench = useBench()
const catalogue = useCatalogue()
const box = ref<HTMLElement | null>(null)
let editor: ReturnType<typeof lineEditor> | undefined

const lines = computed(() => house.level.value?.lines ?? '')
const ofLevel = (list: LineFault[] | undefined) =>
  (list ?? []).filter((own) => own.level_id === house.level.value?.id)
const faults = computed(() => ofLevel(house.drawing.value?.faults))
const doubts = computed(() => ofLevel(house.drawing.value?.doubts))
const chosen = computed(() => {
  const room = house.room.value
  return room && room.level_id === house.level.value?.id ? room.line : -1
})

/** Lines as one may type them, in the home's own unit. */
const example = computed(() =>
  house.units.value === 'ft'
    ? `Hall 6'6" x 16'\nKitchen 14' x 12' east of Hall\n- door to Hall; window south`
    : 'Hall 2 x 5\nKitchen 4.2 x 3.6 east of Hall\n- door to Hall; window south',
)
const words = () => ({
  rooms: house.drawing.value?.rooms.map((room) => room.name) ?? [],
  materials: catalogue.value?.material_words ?? [],
  places: catalogue.value?.place_words ?? [],
  things: catalogue.value?.thing_words ?? [],
})

onMounted(() => {
  editor = lineEditor({
    parent: box.value!,
    text: lines.value,
    example: example.value,
    words,
    mend: house.mend,
    changed: (text) => house.level.value && house.history.write({ [house.level.value.id]: text }),
    cursorAt: (line) => {
      const here = house.drawing.value?.rooms.filter((room) => room.level_id === house.level.value?.id) ?? []
      // A line of things belongs to the room above it.
      const own = here.filter((room) => room.line <= line).sort((a, b) => b.line - a.line)[0]
      if (own) bench.roomId = own.room_id
    },
  })
  editor.mark(faults.value, doubts.value)
  editor.choose(chosen.value)
})
onBeforeUnmount(() => editor?.destroy())
watch(lines, (now) => editor?.show(now))
// Marks wait until what was typed is drawn and on the screen (setting them lays the page out anew), and until they differ.
let marked = ''
let waiting = false
function mark() {
  waiting = false
  const text = JSON.stringify([faults.value, doubts.value])
  if (text === marked) return
  marked = text
  editor?.mark(faults.value, doubts.value)
}
watch([faults, doubts], () => {
  if (waiting) return
  waiting = true
  requestAnimationFrame(() => setTimeout(mark))
})
watch(chosen, (now) => editor?.choose(now), { flush: 'post' })
watch(example, (now) => editor?.hint(now))

defineExpose({
  goTo: (line: number, from?: number, to?: number) => editor?.goTo(line, from, to),
  add: (text: string) => editor?.add(text),
})
</script>

<template>
  <div ref="box" class="editor" />
</template>

<style scoped>
.editor {
  border: 1px solid var(--quiet);
  background: #fff;
  min-height: 120px;
  overflow: hidden;
  display: grid;
}

.editor :deep(.cm-editor) {
  height: 100%;
  min-height: 0;
  outline: none;
}

.editor:focus-within {
  outline: 2px solid #1f5fa8;
}

.editor :deep(.cm-scroller) {
  font-family: var(--text);
  font-size: 0.9rem;
  line-height: 1.5;
}

.editor :deep(.cm-gutters) {
  background: #fff;
  border: 0;
}

.editor :deep(.chosen-line) {
  background: var(--select);
}

.editor :deep(.cm-placeholder) {
  color: var(--quiet);
  white-space: pre-wrap;
}

.editor :deep(.cm-tooltip) {
  font-family: var(--text);
  font-size: 0.85rem;
  border: 1px solid var(--quiet);
  background: #fff;
}

.editor :deep(.cm-tooltip-autocomplete ul li[aria-selected]) {
  background: var(--select);
  color: var(--ink);
}

.editor :deep(.cm-tooltip-autocomplete > ul) {
  font-family: var(--text);
}

.editor :deep(.cm-diagnosticAction) {
  background: var(--ink);
  color: #fff;
  padding: 2px 8px;
  border-radius: 0;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Missing, LineFault } from '../../api/types'
import { useBench } from '../bench'
import { useHouse } from './useHouse'
import { fixLabel } from './useLineEditor'

const emit = defineEmits<{ go: [levelId: string, line: number, from?: number, to?: number]; look: [] }>()
const house = useHouse()
const bench = useBench()

const lineOf = (fault: LineFault) =>
  house.edit.value?.levels.find((own) => own.id === fault.level_id)?.lines.split('\n')[fault.line] ?? ''
const levelName = (id: string | null | undefined) =>
  (house.edit.value?.levels.length ?? 0) > 1
    ? (house.edit.value?.levels.find((own) => own.id === id)?.name ?? '')
    : ''
const wrongs = computed(() => [
  ...(house.drawing.value?.faults ?? []).map((fault) => ({ fault, doubt: false })),
  ...(house.drawing.value?.doubts ?? []).map((fault) => ({ fault, doubt: true })),
])
/** What the prediction would gain most from knowing, as the ledger asks it. */
const asks = computed(() => {
  const words = bench.ledger.map((row) => row.undrawn?.ask).filter((ask): ask is string => !!ask)
  return [...new Set(words)].slice(0, 1)
})

function go(lack: Missing) {
  if (lack.room_id) bench.roomId = lack.room_id
  if (lack.level_id) emit('go', lack.level_id, lack.line ?? 0)
}
</script>

<template>
  <ul id="house-faults" aria-label="What is wrong or lacks">
    <li v-for="({ fault, doubt }, index) in wrongs" :key="`fault ${index}`" :class="{ wrong: !doubt }">
      <button
        type="button"
        class="place"
        @click="emit('go', fault.level_id, fault.line, fault.from, fault.to)"
      >
        {{ levelName(fault.level_id) }} line {{ fault.line + 1 }}
      </button>
      <span>{{ fault.message }}</span>
      <span class="fixes">
        <v-btn v-for="(fix, n) in fault.fixes" :key="n" size="small" @click="house.mend(fault, fix)">
          {{ fixLabel(fix, lineOf(fault)) }}
        </v-btn>
      </span>
    </li>
    <li v-for="ask in asks" :key="ask">
      <span class="place">matters most</span>
      <span>For what is predicted: {{ ask }}.</span>
    </li>
    <li v-for="(lack, index) in house.drawing.value?.lacks ?? []" :key="`lack ${index}`">
      <button v-if="lack.level_id" type="button" class="place" @click="go(lack)">
        {{ levelName(lack.level_id) || 'show' }}
      </button>
      <span v-else class="place">house</span>
      <span>{{ lack.told }}</span>
      <span class="fixes">
        <v-btn
          v-for="remedy in lack.remedies"
          :key="remedy.label"
          size="small"
          @click="remedy.does.what === 'choose_look' ? emit('look') : house.act(remedy.does)"
        >
          {{ remedy.label }}
        </v-btn>
      </span>
    </li>
    <li v-if="wrongs.length === 0 && (house.drawing.value?.lacks.length ?? 0) === 0" class="quiet">
      Nothing: the plan is whole.
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  font-size: 0.9rem;
}

li {
  display: grid;
  grid-template-columns: 110px 1fr auto;
  gap: 10px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}

.place {
  color: var(--quiet);
  font-size: 0.82rem;
  text-align: left;
}

button.place {
  text-decoration: underline;
}

.wrong .place,
.wrong > span:nth-child(2) {
  color: var(--comb);
}

.fixes {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  justify-content: end;
}

.fixes :deep(.v-btn) {
  text-transform: none;
}

@media (max-width: 700px) {
  li {
    grid-template-columns: 1fr;
    gap: 4px;
  }

  .fixes {
    justify-content: start;
  }
}
</style>

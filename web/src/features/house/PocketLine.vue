<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import { useHouse } from './useHouse'
import { fixLabel } from './useLineEditor'

const house = useHouse()
const lines = computed(() => (house.level.value?.lines ?? '').split('\n'))
const at = ref(Math.max(0, lines.value.length - 1))
const field = ref<HTMLInputElement | null>(null)
const list = ref<HTMLOListElement | null>(null)
watch(
  at,
  async (now) => {
    await nextTick()
    list.value?.children[now]?.scrollIntoView({ block: 'nearest' })
  },
  { immediate: true },
)
onMounted(() => list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' }))
watch(
  () => house.level.value?.id,
  () => (at.value = Math.max(0, lines.value.length - 1)),
)
const text = computed({
  get: () => lines.value[at.value] ?? '',
  set: (now) => {
    const own = house.level.value
    if (!own) return
    const all = [...lines.value]
    all[at.value] = now
    house.history.write({ [own.id]: all.join('\n') })
  },
})
const feet = computed(() => house.units.value === 'ft')
const KEYS = computed(() => [
  '7',
  '8',
  '9',
  feet.value ? `'` : '.',
  '4',
  '5',
  '6',
  feet.value ? '"' : ',',
  '1',
  '2',
  '3',
  'x',
  '½',
  '0',
  '+',
  ';',
])
const rooms = computed(() =>
  (house.drawing.value?.rooms ?? []).filter(
    (room) => room.line !== at.value || room.level_id !== house.level.value?.id,
  ),
)
const fault = computed(() =>
  [...(house.drawing.value?.faults ?? []), ...(house.drawing.value?.doubts ?? [])].find(
    (own) => own.level_id === house.level.value?.id && own.line === at.value,
  ),
)

/** Puts text where the cursor is; without a keyboard coming up. */
async function put(more: string) {
  const input = field.value
  const [from, to] = [input?.selectionStart ?? text.value.length, input?.selectionEnd ?? text.value.length]
  const spaced = more.length > 1 && from > 0 && !/\s$/.test(text.value.slice(0, from)) ? ` ${more}` : more
  text.value = text.value.slice(0, from) + spaced + text.value.slice(to)
  await nextTick()
  input?.setSelectionRange(from + spaced.length, from + spaced.length)
}

async function back() {
  const input = field.value
  const [from, to] = [input?.selectionStart ?? text.value.length, input?.selectionEnd ?? text.value.length]
  const begin = from === to ? Math.max(0, from - 1) : from
  text.value = text.value.slice(0, begin) + text.value.slice(to)
  await nextTick()
  input?.setSelectionRange(begin, begin)
}

/** A fresh line after this one, the cursor in it. */
async function nextRoom() {
  const own = house.level.value
  if (!own) return
  const all = [...lines.value]
  if (text.value.trim() !== '') {
    all.splice(at.value + 1, 0, '')
    house.history.write({ [own.id]: all.join('\n') })
    at.value += 1
  }
  await nextTick()
  field.value?.focus()
}
</script>

<template>
  <div class="pocket">
    <ol ref="list" aria-label="Lines of this level">
      <li v-for="(line, index) in lines" :key="index">
        <button type="button" :aria-pressed="index === at" @click="at = index">{{ line || '…' }}</button>
      </li>
    </ol>
    <input
      ref="field"
      v-model="text"
      class="line"
      autocapitalize="off"
      autocomplete="off"
      enterkeyhint="next"
      :aria-label="`Line ${at + 1}`"
      :placeholder="feet ? `Hall 6'6&quot; x 16'` : 'Hall 2 x 5'"
      @keydown.enter.prevent="nextRoom"
    />
    <p v-if="fault" class="small wrong" role="alert">
      {{ fault.message }}
      <v-btn v-for="(fix, n) in fault.fixes" :key="n" size="small" @click="house.mend(fault, fix)">
        {{ fixLabel(fix, text) }}
      </v-btn>
    </p>
    <div class="keys" role="group" aria-label="Keys">
      <button v-for="key in KEYS" :key="key" type="button" @pointerdown.prevent @click="put(key)">
        {{ key }}
      </button>
      <button type="button" class="wide" aria-label="Space" @pointerdown.prevent @click="put(' ')">
        space
      </button>
      <button type="button" aria-label="Take back a letter" @pointerdown.prevent @click="back">⌫</button>
      <button type="button" class="next" @click="nextRoom">Next room</button>
    </div>
    <div class="words" role="group" aria-label="Words">
      <button
        v-for="word in [
          'east of',
          'south of',
          'west of',
          'north of',
          'above',
          'flush',
          '- door to',
          '- window',
          'outdoors',
        ]"
        :key="word"
        type="button"
        @pointerdown.prevent
        @click="put(`${word} `)"
      >
        {{ word }}
      </button>
      <button
        v-for="room in rooms"
        :key="room.room_id"
        type="button"
        class="room"
        @pointerdown.prevent
        @click="put(`${room.name} `)"
      >
        {{ room.name }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.pocket {
  display: grid;
  gap: 8px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 148px;
  overflow: auto;
  border: 1px solid var(--line);
  background: #fff;
}

li button {
  width: 100%;
  text-align: left;
  padding: 8px 10px;
  min-height: 36px;
}

li button[aria-pressed='true'] {
  background: var(--select);
}

.line {
  font-size: 1.35rem;
  padding: 12px 10px;
  border: 2px solid var(--ink);
  background: #fff;
  width: 100%;
}

.wrong {
  color: var(--comb);
  margin: 0;
}

.keys {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 4px;
}

.keys button {
  min-height: 48px;
  background: #fff;
  border: 1px solid var(--line);
  font-size: 1.15rem;
  text-align: center;
}

.keys .next {
  background: var(--ink);
  color: #fff;
  grid-column: 3 / -1;
  font-size: 1rem;
}

.keys .wide {
  font-size: 0.9rem;
}

.words {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.words button {
  min-height: 44px;
  padding: 4px 12px;
  border: 1px solid var(--quiet);
  background: #fff;
}

.words .room {
  border-color: var(--leaf);
}
</style>

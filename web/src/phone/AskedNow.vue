<script setup lang="ts">
import { computed, reactive, watch } from 'vue'

import type { Phone } from './usePhone'

/** What the bench asks about a typed reading that waits on this phone. */
const props = defineProps<{ phone: Phone }>()
const asked = computed(() => props.phone.question.value)
const typed = reactive<Record<string, string>>({})
watch(
  asked,
  (now) => {
    for (const key of Object.keys(typed)) delete typed[key]
    for (const own of now?.doubts ?? []) typed[own.pointer] = heldAt(own.pointer)
  },
  { immediate: true },
)

function heldAt(pointer: string) {
  const run = asked.value?.own.run as unknown
  const held = pointer
    .split('/')
    .slice(1)
    .reduce((at, key) => (at as Record<string, unknown> | null)?.[key], run)
  return typeof held === 'string' ? held : ''
}
</script>

<template>
  <div v-if="asked" class="note" role="alert">
    <template v-if="asked.doubts.length">
      <div v-for="own in asked.doubts" :key="own.pointer">
        <p>{{ own.message }}</p>
        <div class="chips">
          <button
            v-for="text in own.choices"
            :key="text"
            type="button"
            :class="{ changed: typed[own.pointer] === text }"
            @click="typed[own.pointer] = text"
          >
            {{ text }}
          </button>
        </div>
        <label>As it should read <input v-model="typed[own.pointer]" /></label>
      </div>
      <div class="two">
        <button type="button" class="other" @click="phone.mend({ ...typed })">Keep it so</button>
        <button type="button" class="other" @click="phone.answer(false)">Throw it away</button>
      </div>
    </template>
    <template v-else>
      <p>{{ asked.words }}</p>
      <div class="two">
        <button type="button" class="other" @click="phone.answer(true)">It is right, keep it</button>
        <button type="button" class="other" @click="phone.answer(false)">Throw it away</button>
      </div>
    </template>
  </div>
</template>

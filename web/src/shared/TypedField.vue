<script setup lang="ts">
import { computed, ref } from 'vue'

import type { ReadOf } from './numbers'

/** A field for a number, as it is typed; what can't be read, or may mean two numbers, is told under it. */
const typed = defineModel<string>({ required: true })
const props = defineProps<{ told?: ReadOf; problem?: string }>()
const emit = defineEmits<{ pick: [text: string] }>()

const field = ref<{ focus(): void } | null>(null)
defineExpose({ focus: () => field.value?.focus() })
const now = computed(() => (props.told?.typed === typed.value ? props.told : undefined))
function pick(text: string) {
  typed.value = text
  emit('pick', text)
}
</script>

<template>
  <v-text-field
    ref="field"
    v-model="typed"
    inputmode="decimal"
    :error="!!now?.asked || !!now?.problem || !!problem"
    :error-messages="now?.problem ?? problem ?? ''"
  >
    <template v-if="now?.asked" #details>
      <div class="asked" role="alert">
        <span>{{ now.asked.message }}</span>
        <button v-for="own in now.asked.choices" :key="own" type="button" @click="pick(own)">
          {{ own }}
        </button>
      </div>
    </template>
  </v-text-field>
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  color: var(--ink);
  font-size: 0.8125rem;
  white-space: normal;
}

button {
  min-height: 28px;
  min-width: 44px;
  padding: 2px 10px;
  border: 1px solid var(--ink);
  border-radius: 3px;
  background: #fff;
  font: inherit;
}
</style>

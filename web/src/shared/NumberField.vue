<script setup lang="ts">
import { ref } from 'vue'

import { numberOf } from './words'

defineProps<{ value: number; label: string }>()
const emit = defineEmits<{ change: [value: number] }>()
const wrong = ref('')

/** Takes what was typed; what is no number stays in the field and goes nowhere. */
function take(typed: string) {
  const value = numberOf(typed)
  wrong.value = Number.isFinite(value) ? '' : 'Type a number, as in 12 or -70.'
  if (!wrong.value) emit('change', value)
}
</script>

<template>
  <v-text-field
    :key="value"
    :model-value="value"
    :label="label"
    inputmode="decimal"
    :error-messages="wrong"
    @change="take(($event.target as HTMLInputElement).value)"
  />
</template>

<script setup lang="ts">
import { ref } from 'vue'

import type { LengthUnit } from '../api/types'
import { metresOf, typedLength } from './words'

const props = defineProps<{
  metres: number | null | undefined
  label: string
  units: LengthUnit
  optional?: boolean
}>()
const emit = defineEmits<{ change: [metres: number]; clear: [] }>()
const wrong = ref('')

/** Takes what was typed; what is no number stays in the field and goes nowhere. */
function take(typed: string) {
  wrong.value = ''
  const metres = metresOf(typed, props.units)
  if (props.optional && typed.trim() === '') emit('clear')
  else if (Number.isFinite(metres)) emit('change', metres)
  else wrong.value = 'Type a number, as in 2.5.'
}
</script>

<template>
  <v-text-field
    :key="`${metres}`"
    :model-value="metres == null ? '' : typedLength(metres, units)"
    :label="`${label}, ${units}`"
    inputmode="decimal"
    :error-messages="wrong"
    @change="take(($event.target as HTMLInputElement).value)"
  />
</template>

<script setup lang="ts">
import { ref } from 'vue'

import type { LengthUnit } from '../api/types'
import { answer, api } from '../api/client'
import { typedLength } from './words'

const props = defineProps<{
  metres: number | null | undefined
  label: string
  units: LengthUnit
  optional?: boolean
}>()
const emit = defineEmits<{ change: [metres: number]; clear: [] }>()
const wrong = ref('')

/** Takes what was typed, read as people write lengths; what is none stays in the field and goes nowhere. */
async function take(typed: string) {
  wrong.value = ''
  if (props.optional && typed.trim() === '') {
    emit('clear')
    return
  }
  try {
    const read = await answer(api.GET('/api/length', { params: { query: { typed, unit: props.units } } }))
    emit('change', read.metres)
  } catch (error) {
    wrong.value = (error as Error).message
  }
}
</script>

<template>
  <v-text-field
    :key="`${metres}`"
    :model-value="metres == null ? '' : typedLength(metres, units)"
    :label="`${label}, ${units}`"
    :error-messages="wrong"
    @change="take(($event.target as HTMLInputElement).value)"
  />
</template>

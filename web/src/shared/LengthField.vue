<script setup lang="ts">
import type { LengthUnit } from '../api/types'
import { metresOf, typedLength } from './words'

defineProps<{ metres: number | null | undefined; label: string; units: LengthUnit }>()
const emit = defineEmits<{ change: [metres: number | undefined] }>()

/** Takes what was typed; what is no number goes as zero, so that the server says what is wrong with it. */
function take(typed: string, unit: LengthUnit) {
  emit('change', typed.trim() === '' ? undefined : metresOf(typed, unit) || 0)
}
</script>

<template>
  <v-text-field
    :key="`${metres}`"
    :model-value="metres == null ? '' : typedLength(metres, units)"
    :label="`${label}, ${units}`"
    inputmode="decimal"
    @change="take(($event.target as HTMLInputElement).value, units)"
  />
</template>

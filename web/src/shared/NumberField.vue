<script setup lang="ts">
defineProps<{ value: number; label: string }>()
const emit = defineEmits<{ change: [value: number] }>()

/** What is no number goes as one far out of any range, so that the server says what is wrong with it. */
const number = (typed: string) => {
  const value = Number(typed.trim().replace(',', '.').replace('−', '-'))
  return typed.trim() === '' || !Number.isFinite(value) ? -999_999 : value
}
</script>

<template>
  <v-text-field
    :key="value"
    :model-value="value"
    :label="label"
    inputmode="decimal"
    @change="emit('change', number(($event.target as HTMLInputElement).value))"
  />
</template>

<script setup lang="ts">
import type { Hours } from '../api/types'

/** Hours of a day, from one to another; both empty when they are not known. */
const hours = defineModel<Hours | null>()
const props = defineProps<{ label?: string; name?: string }>()

function take(end: 'from' | 'to', typed: string) {
  const hour = Number.parseInt(typed, 10)
  if (typed.trim() === '') hours.value = null
  else if (Number.isFinite(hour)) {
    const own = { from: hours.value?.from ?? hour, to: hours.value?.to ?? (hour + 1) % 24 }
    hours.value = { ...own, [end]: hour }
  }
}
</script>

<template>
  <div class="hours" role="group" :aria-label="props.name ?? props.label">
    <span v-if="label" class="small quiet">{{ label }}</span>
    <input
      :value="hours?.from ?? ''"
      inputmode="numeric"
      placeholder="19"
      :aria-label="`${props.name ?? props.label} from`"
      @change="take('from', ($event.target as HTMLInputElement).value)"
    />
    to
    <input
      :value="hours?.to ?? ''"
      inputmode="numeric"
      placeholder="23"
      :aria-label="`${props.name ?? props.label} to`"
      @change="take('to', ($event.target as HTMLInputElement).value)"
    />
  </div>
</template>

<style scoped>
.hours {
  display: flex;
  align-items: center;
  gap: 4px;
  white-space: nowrap;
}

input {
  width: 30px;
  border: 0;
  border-bottom: 1px solid var(--quiet);
  background: #fff;
  padding: 4px;
  text-align: right;
  font: inherit;
}
</style>

<script setup lang="ts">
import { ref } from 'vue'

import type { Hours } from '../api/types'

/** Hours of a day, from one to another; both empty when they are not known. */
const hours = defineModel<Hours | null>()
const props = defineProps<{ label?: string; name?: string }>()

const wrong = ref<{ end: 'from' | 'to'; typed: string }>()

/** Takes an hour; what is none stays in the field and goes nowhere. */
function take(end: 'from' | 'to', typed: string) {
  const plain = /^(\d{1,2})([:.]00)?( ?h)?$/.exec(typed.trim())
  wrong.value = undefined
  if (typed.trim() === '') hours.value = null
  else if (plain && Number(plain[1]) <= 24) {
    const hour = Number(plain[1]) % 24
    const own = { from: hours.value?.from ?? hour, to: hours.value?.to ?? (hour + 1) % 24 }
    hours.value = { ...own, [end]: hour }
  } else wrong.value = { end, typed }
}
const held = (end: 'from' | 'to') =>
  wrong.value?.end === end ? wrong.value.typed : (hours.value?.[end] ?? '')
</script>

<template>
  <div class="hours" role="group" :aria-label="props.name ?? props.label">
    <span v-if="label" class="small quiet">{{ label }}</span>
    <input
      :value="held('from')"
      :aria-invalid="wrong?.end === 'from'"
      inputmode="numeric"
      placeholder="19"
      :aria-label="`${props.name ?? props.label} from`"
      @change="take('from', ($event.target as HTMLInputElement).value)"
    />
    to
    <input
      :value="held('to')"
      :aria-invalid="wrong?.end === 'to'"
      inputmode="numeric"
      placeholder="23"
      :aria-label="`${props.name ?? props.label} to`"
      @change="take('to', ($event.target as HTMLInputElement).value)"
    />
    <span v-if="wrong" class="small bad" role="alert">Type an hour from 0 to 24, as in 19.</span>
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

<script setup lang="ts">
import { computed } from 'vue'

import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone }>()
const { view, conditions } = props.phone
/** What the round was planned with first. */
const classes = computed(() => {
  const own = view.value
  const first = (key: string) => (key === own?.under.client ? 0 : 1)
  return [...(own?.clients ?? [])].sort((a, b) => first(a.key) - first(b.key))
})
</script>

<template>
  <section aria-label="This phone">
    <h1>What is this device?</h1>
    <p class="small quiet">
      Asked once. It says which readings compare: an older phone gets less than the room has.
    </p>
    <button
      v-for="(own, index) in classes"
      :key="own.key"
      type="button"
      :class="index === 0 ? 'main' : 'other'"
      @click="conditions.client.value = own.key"
    >
      {{ own.name }}
    </button>
  </section>
</template>

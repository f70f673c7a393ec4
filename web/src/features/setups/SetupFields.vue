<script setup lang="ts">
import type { Setup, Steering } from '../../api/types'

/** What holds for a setup as a whole. */
defineProps<{ setup: Setup }>()
const emit = defineEmits<{ change: [part: Partial<Setup>]; remove: [] }>()

const steerings: { title: string; value: Steering }[] = [
  { title: 'one name, guided', value: 'guided' },
  { title: 'one name, not guided', value: 'one_name' },
  { title: 'a name for each device', value: 'own_names' },
]
</script>

<template>
  <section class="fields" aria-label="The setup">
    <v-text-field
      :key="setup.id"
      :model-value="setup.name"
      :label="`Name of setup ${setup.letter}`"
      @change="emit('change', { name: ($event.target as HTMLInputElement).value.trim() })"
    />
    <v-select
      v-if="setup.devices.length > 1"
      :model-value="setup.steering ?? 'guided'"
      :items="steerings"
      label="Phones find a device by"
      @update:model-value="emit('change', { steering: $event })"
    />
    <button type="button" class="small" @click="emit('remove')">Delete setup {{ setup.letter }}</button>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: minmax(160px, 280px) minmax(160px, 240px) auto;
  gap: 14px;
  align-items: end;
}

button {
  text-decoration: underline;
  justify-self: start;
}

@media (max-width: 900px) {
  .fields {
    grid-template-columns: 1fr;
  }
}
</style>

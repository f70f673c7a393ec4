<script setup lang="ts">
import type { Setup, Steering } from '../../api/types'

/** What holds for a setup as a whole. */
defineProps<{ setup: Setup; inForce: boolean; first: boolean; last: boolean }>()
const emit = defineEmits<{
  change: [part: Partial<Setup>]
  remove: []
  move: [by: number]
  force: [inForce: boolean]
}>()

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
    <v-text-field
      class="why"
      :model-value="setup.why ?? ''"
      label="Why it is tried"
      maxlength="400"
      @update:model-value="emit('change', { why: $event })"
    />
    <v-checkbox
      :model-value="inForce"
      label="in force: fitted, or chosen to be"
      @update:model-value="emit('force', !!$event)"
    />
    <v-checkbox
      :model-value="setup.archived ?? false"
      label="put away: kept with its readings, no longer offered"
      @update:model-value="emit('change', { archived: !!$event })"
    />
    <p class="small acts">
      <button type="button" :disabled="first" @click="emit('move', -1)">move it left</button>
      <button type="button" :disabled="last" @click="emit('move', 1)">move it right</button>
      <button type="button" @click="emit('remove')">Delete setup {{ setup.letter }}</button>
    </p>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: minmax(160px, 260px) minmax(160px, 240px) minmax(160px, 1fr);
  gap: 14px;
  align-items: end;
}

button {
  text-decoration: underline;
}

button:disabled {
  opacity: 0.45;
}

.acts {
  display: flex;
  gap: 14px;
  grid-column: 1 / -1;
}

@media (max-width: 900px) {
  .fields {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { ref } from 'vue'

/** A pass phrase: asked for, or set, and then typed twice. */
defineProps<{
  label: string
  /** Whether it is set here. */
  first: boolean
}>()
const words = defineModel<string>('words', { required: true })
const again = defineModel<string>('again', { required: true })
const shown = ref(false)
</script>

<template>
  <v-text-field
    v-model="words"
    :label="label"
    :type="shown ? 'text' : 'password'"
    :autocomplete="first ? 'new-password' : 'current-password'"
    autofocus
  />
  <v-text-field
    v-if="first"
    v-model="again"
    label="The same again"
    :type="shown ? 'text' : 'password'"
    autocomplete="new-password"
  />
  <v-checkbox v-model="shown" label="Show it" density="compact" hide-details />
</template>

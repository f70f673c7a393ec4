<script setup lang="ts">
import type { ReadOf } from '../shared/numbers'

/** What is asked of a figure, or why it is none; only of the text that it was read from. */
defineProps<{ told?: ReadOf; typed: string }>()
defineEmits<{ pick: [text: string] }>()
</script>

<template>
  <span v-if="told && told.typed === typed && (told.problem || told.asked)" class="small bad" role="alert">
    {{ told.problem ?? told.asked?.message }}
    <span v-if="told.asked" class="chips">
      <button v-for="own in told.asked.choices" :key="own" type="button" @click.prevent="$emit('pick', own)">
        {{ own }}
      </button>
    </span>
  </span>
</template>

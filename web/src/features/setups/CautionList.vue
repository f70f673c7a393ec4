<script setup lang="ts">
import type { Caution } from '../../api/types'

defineProps<{ cautions: Caution[] }>()
</script>

<template>
  <ul v-if="cautions.length" class="small" aria-label="Cautions">
    <li v-for="caution in cautions" :key="caution.message" :class="caution.kind">
      <b>{{ caution.kind === 'safety' ? 'Safety:' : 'Mind the neighbours:' }}</b> {{ caution.message }}
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 3px;
}

li {
  border-left: 3px solid var(--yolk);
  padding-left: 8px;
}

.safety {
  border-left-color: var(--comb);
}
</style>

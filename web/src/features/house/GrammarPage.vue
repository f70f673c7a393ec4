<script setup lang="ts">
import { computed } from 'vue'

import { useCatalogue } from '../../shared/useCatalogue'
import { useHouse } from './useHouse'

const emit = defineEmits<{ add: [text: string] }>()
const house = useHouse()
const catalogue = useCatalogue()
const rows = computed(
  () =>
    catalogue.value?.grammar.map((own) => ({
      ...own,
      example: house.units.value === 'ft' ? own.feet : own.metres,
    })) ?? [],
)
</script>

<template>
  <section aria-label="How to type it">
    <p class="small quiet">
      One line a room; under it, after a dash, what is in it. Press an example to put it under the cursor.
    </p>
    <ul>
      <li v-for="row in rows" :key="row.what">
        <span>{{ row.what }}</span>
        <button type="button" @click="emit('add', row.example)">{{ row.example }}</button>
        <span class="small quiet">{{ row.more }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  font-size: 0.88rem;
}

li {
  display: grid;
  grid-template-columns: 1fr 1.5fr 1.2fr;
  gap: 10px;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
  align-items: baseline;
}

li button {
  text-align: left;
  background: #fff;
  border: 1px solid var(--line);
  padding: 2px 6px;
}

li button:hover {
  border-color: var(--ink);
}

@media (max-width: 700px) {
  li {
    grid-template-columns: 1fr;
    gap: 2px;
  }
}
</style>

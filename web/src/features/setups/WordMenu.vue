<script setup lang="ts" generic="T">
import { computed } from 'vue'

/** A word of the question that is a menu. */
const props = defineProps<{ label: string; items: { title: string; value: T }[]; modelValue: T }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()

const same = (a: T, b: T) => JSON.stringify(a) === JSON.stringify(b)
const now = computed(() => props.items.find((own) => same(own.value, props.modelValue))?.title ?? '…')
</script>

<template>
  <v-menu>
    <template #activator="{ props: opener }">
      <button type="button" class="word" :aria-label="`${label}: ${now}`" v-bind="opener">{{ now }}</button>
    </template>
    <ul class="choices" role="menu" :aria-label="label">
      <li v-for="own in items" :key="own.title" role="none">
        <button
          type="button"
          role="menuitemradio"
          :aria-checked="same(own.value, modelValue)"
          @click="emit('update:modelValue', own.value)"
        >
          {{ own.title }}
        </button>
      </li>
    </ul>
  </v-menu>
</template>

<style scoped>
.word {
  font-weight: 700;
  color: var(--cream);
  border-bottom: 1px dotted var(--straw);
}

.choices {
  list-style: none;
  background: #fff;
  border: 1px solid var(--quiet);
  padding: 5px 0;
  max-height: 60vh;
  overflow: auto;
}

.choices button {
  display: block;
  width: 100%;
  padding: 5px 14px;
  text-align: left;
  font-size: 0.9rem;
}

.choices button:hover,
.choices button:focus-visible {
  background: var(--select);
}

.choices button[aria-checked='true'] {
  font-weight: 700;
}
</style>

<script setup lang="ts">
/** Says what waits on this machine, and why; what will never be taken can be thrown away. */
defineProps<{ waiting: number; problem: string; refused: boolean }>()
const emit = defineEmits<{ forget: [] }>()
</script>

<template>
  <p v-if="waiting" role="status" class="note small">
    <b>{{ waiting }} kept here, not sent yet.</b> {{ problem }}
    <button v-if="refused" type="button" class="text" @click="emit('forget')">Throw them away</button>
  </p>
</template>

<style scoped>
.note {
  border-left: 4px solid var(--yolk);
  padding: 2px 10px;
  margin: 0;
}
</style>

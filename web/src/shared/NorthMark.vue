<script setup lang="ts">
defineProps<{ turned: boolean }>()
</script>

<template>
  <span class="north">{{ turned ? '← north' : '↑ north' }}</span>
</template>

<style scoped>
.north {
  font-size: 0.75rem;
  opacity: 0.85;
  white-space: nowrap;
}
</style>

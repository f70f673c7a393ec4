<script setup lang="ts">
import type { Confirm } from './useConfirm'

const props = defineProps<{ confirm: Confirm }>()
const { told, seen } = props.confirm
</script>

<template>
  <fieldset v-if="told?.list.length">
    <legend>Did it take effect? Changed since setup {{ told.tested_last }} was tested</legend>
    <label v-for="own in told.list" :key="own">
      <input v-model="seen" type="checkbox" :value="own" /> {{ own }}
    </label>
    <p class="small quiet">Tick what you have seen; the round tells what was not.</p>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  border-left: 4px solid var(--yolk);
  padding: 2px 10px;
}

legend {
  font-weight: 600;
}

label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  min-height: 28px;
  font-size: 0.92rem;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone; spot: string; name: string }>()
const { view, busy, takePicture } = props.phone
const of = ref('')
const note = ref('')
const taken = ref('')
const what = computed(
  () => view.value?.devices.find((own) => own.id === of.value)?.name ?? `this spot, ${props.name}`,
)

async function take(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const shows = of.value ? { device: of.value } : { spot: props.spot }
  if (await takePicture(file, shows, note.value)) {
    taken.value = `A picture of ${what.value} is kept.`
    note.value = ''
  }
}
</script>

<template>
  <details>
    <summary>A picture for the record</summary>
    <div class="fields">
      <label class="wide">
        It shows
        <select v-model="of">
          <option value="">this spot, {{ name }}</option>
          <option v-for="own in view?.devices" :key="own.id" :value="own.id">{{ own.name }}</option>
        </select>
      </label>
      <label class="wide">
        Words with it
        <input v-model="note" maxlength="200" placeholder="socket behind the bench" />
      </label>
      <label :class="['other', 'take', { off: busy }]">
        Take or choose a picture
        <input type="file" accept="image/*" capture="environment" :disabled="busy" @change="take" />
      </label>
    </div>
    <p v-if="taken" class="small" role="status">{{ taken }}</p>
    <p class="small quiet">
      Where and when the camera says it was taken stays on the phone. Ask before people are in it.
    </p>
  </details>
</template>

<style scoped>
.phone .take {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  justify-content: center;
  position: relative;
  font-size: 1.06rem;
  cursor: pointer;
}

.phone .take input {
  position: absolute;
  inset: 0;
  height: 100%;
  opacity: 0;
  cursor: pointer;
}

.take:focus-within {
  outline: 3px solid var(--leaf);
  outline-offset: 2px;
}

.off {
  color: var(--quiet);
}
</style>

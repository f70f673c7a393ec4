<script setup lang="ts">
import { v4 as newId } from 'uuid'
import { computed, reactive } from 'vue'

import type { DeviceNote, Setup } from '../../api/types'
import { when } from '../../shared/words'
import { warmthWord } from './words'

/** What a hand felt and an eye saw of a device, days after it was fitted. */
const props = defineProps<{ setup?: Setup; setups: Setup[]; notes: DeviceNote[] }>()
const emit = defineEmits<{ add: [note: DeviceNote]; remove: [id: string] }>()

const WARMTHS = Object.entries(warmthWord).map(([value, title]) => ({ value, title }))
const form = reactive({ device: '', warmth: null as DeviceNote['warmth'], fault: false, text: '' })
const devices = computed(() => props.setup?.devices.map((own) => ({ value: own.id, title: own.name })) ?? [])
const able = computed(() => form.device && (form.text.trim() || (form.warmth && !form.fault)))
const name = (note: DeviceNote) =>
  props.setups.find((own) => own.id === note.setup_id)?.devices.find((own) => own.id === note.device_id)
    ?.name ?? 'a device that was taken off'

function add() {
  if (!able.value || !props.setup) return
  emit('add', {
    id: newId(),
    setup_id: props.setup.id,
    device_id: form.device,
    at: new Date().toISOString(),
    warmth: form.warmth,
    fault: form.fault,
    text: form.text.trim(),
  })
  Object.assign(form, { warmth: null, fault: false, text: '' })
}
</script>

<template>
  <section class="notes" aria-label="Seen by hand and eye">
    <h2>Seen by hand and eye</h2>
    <form @submit.prevent="add">
      <v-select v-model="form.device" :items="devices" label="Device" />
      <v-select v-model="form.warmth" :items="WARMTHS" label="Its case is" clearable />
      <v-text-field v-model="form.text" label="Lights, its own page, words of the family" maxlength="500" />
      <v-checkbox v-model="form.fault" label="a fault" />
      <v-btn type="submit" size="small" :disabled="!able">Note it</v-btn>
    </form>
    <ul v-if="notes.length">
      <li v-for="note in [...notes].reverse()" :key="note.id" :class="{ fault: note.fault }">
        <b>{{ name(note) }}</b> <span class="small quiet">{{ when(note.at) }}</span>
        {{ note.warmth ? warmthWord[note.warmth] : '' }}{{ note.warmth && note.text ? '; ' : ''
        }}{{ note.fault ? 'fault: ' : '' }}{{ note.text }}
        <button type="button" class="text small" @click="emit('remove', note.id)">throw it away</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.notes {
  display: grid;
  gap: 8px;
}

form {
  display: grid;
  grid-template-columns: minmax(150px, 1fr) minmax(150px, 1fr) minmax(200px, 3fr) auto auto;
  gap: 4px 14px;
  align-items: end;
}

ul {
  list-style: none;
  display: grid;
  gap: 4px;
}

li {
  border-left: 4px solid var(--line);
  padding: 2px 10px;
}

li.fault {
  border-color: var(--comb);
}

@media (width < 900px) {
  form {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { KitStatus } from '../api/types'
import { useReading } from '../shared/numbers'
import FigureNote from './FigureNote.vue'
import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone; spot: string; kit?: boolean; open?: boolean }>()
const { conditions } = props.phone
const now = computed(() => conditions.now.value)
/** What is typed here belongs to this spot. */
function set(part: Parameters<typeof conditions.change>[0]) {
  conditions.arrive(props.spot)
  conditions.change(part)
}
const value = (event: Event) => (event.target as HTMLInputElement).value
const KIT: { value: KitStatus; title: string }[] = [
  { value: 'good', title: 'good' },
  { value: 'fair', title: 'fair' },
  { value: 'poor', title: 'poor' },
  { value: 'lost', title: 'no link' },
]
const { told, read } = useReading({ signal: 'signal', link: 'speed' })
/** Read as soon as it is typed where the bench answers; else when it is sent. */
async function look() {
  if (now.value) await read({ signal: now.value.signal, link: now.value.link }).catch(() => undefined)
}
const here = computed(() => now.value?.spot === props.spot)
</script>

<template>
  <details v-if="now" :open="open">
    <summary>What phone or kit shows here, a note</summary>
    <div class="fields">
      <label>
        Signal, dBm
        <input
          inputmode="decimal"
          :value="here ? now.signal : ''"
          placeholder="-67"
          @input="set({ signal: value($event) })"
          @change="look"
        />
        <FigureNote v-if="here" :told="told.signal" :typed="now.signal" @pick="set({ signal: $event })" />
      </label>
      <label>
        Link rate, Mb/s
        <input
          inputmode="decimal"
          :value="here ? now.link : ''"
          @input="set({ link: value($event) })"
          @change="look"
        />
        <FigureNote v-if="here" :told="told.link" :typed="now.link" @pick="set({ link: $event })" />
      </label>
      <label class="wide">
        Note for the next run
        <input :value="here ? now.note : ''" maxlength="200" @input="set({ note: value($event) })" />
      </label>
      <div v-if="kit" class="wide">
        <span class="small">The node’s own light or page says</span>
        <div class="chips">
          <button
            v-for="own in KIT"
            :key="own.value"
            type="button"
            :class="{ changed: here && now.kit === own.value }"
            :aria-pressed="here && now.kit === own.value"
            @click="set({ kit: now.kit === own.value ? null : own.value })"
          >
            {{ own.title }}
          </button>
        </div>
      </div>
    </div>
    <p class="small quiet">Many phones don’t show these. A link rate explains; it is never a speed.</p>
  </details>
</template>

<script setup lang="ts">
import { computed } from 'vue'

import type { RunDetails } from '../api/types'
import { figure } from './conditions'
import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone; spot: string; more?: RunDetails; disabled?: boolean }>()
const { conditions, shown } = props.phone
const now = computed(() => conditions.now.value)
const value = (event: Event) => (event.target as HTMLInputElement).value
const down = computed(() => figure(now.value?.down ?? ''))
const up = computed(() => figure(now.value?.up ?? ''))
const ready = computed(() => down.value !== null && up.value !== null && !!now.value?.tool.trim())

async function keep() {
  if (down.value === null || up.value === null || !now.value) return
  const figures = { down: down.value, up: up.value, idle: figure(now.value.idle) }
  await shown(props.spot, figures, now.value.reach, props.more)
}
</script>

<template>
  <form v-if="now" class="fields" @submit.prevent="keep">
    <label class="wide">
      Which test
      <input :value="now.tool" maxlength="60" @input="conditions.change({ tool: value($event) || ' ' })" />
    </label>
    <label>
      Down, Mb/s
      <input :value="now.down" inputmode="decimal" @input="conditions.change({ down: value($event) })" />
    </label>
    <label>
      Up, Mb/s
      <input :value="now.up" inputmode="decimal" @input="conditions.change({ up: value($event) })" />
    </label>
    <label>
      Idle delay, ms
      <input
        :value="now.idle"
        inputmode="decimal"
        placeholder="if it shows one"
        @input="conditions.change({ idle: value($event) })"
      />
    </label>
    <label>
      It went
      <select
        :value="now.reach"
        @change="conditions.change({ reach: value($event) as 'local' | 'internet' })"
      >
        <option value="internet">to the internet</option>
        <option value="local">within the home</option>
      </select>
    </label>
    <button type="submit" class="main wide" :disabled="!ready || disabled">Keep what it showed</button>
    <p class="small quiet wide">
      Megabits a second. Where a test shows megabytes (MB/s), type eight times as much. Such readings stand by
      themselves and are not mixed with this page’s own.
    </p>
  </form>
</template>

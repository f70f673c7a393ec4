<script setup lang="ts">
import { computed } from 'vue'

import type { RunDetails } from '../api/types'
import { useReading } from '../shared/numbers'
import FigureNote from './FigureNote.vue'
import type { Phone } from './usePhone'

const props = defineProps<{
  phone: Phone
  spot: string
  more?: () => Promise<RunDetails | undefined>
  disabled?: boolean
}>()
const { conditions, shown } = props.phone
const now = computed(() => conditions.now.value)
const value = (event: Event) => (event.target as HTMLInputElement).value
const ready = computed(() => !!now.value?.down.trim() && !!now.value.up.trim() && !!now.value.tool.trim())
const { told, read } = useReading({ down: 'speed', up: 'speed', idle: 'delay' })

/** Read at once where the bench answers; else it waits on the phone as it was typed. */
async function keep() {
  const own = now.value
  if (!own) return
  const { down, up, idle } = own
  try {
    if (!(await read({ down, up, idle }))) return
  } catch {
    // It is read when it is sent.
  }
  const more = props.more ? await props.more() : {}
  if (more) await shown(props.spot, { down, up, idle: idle.trim() || null }, own.reach, more)
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
      <FigureNote :told="told.down" :typed="now.down" @pick="conditions.change({ down: $event })" />
    </label>
    <label>
      Up, Mb/s
      <input :value="now.up" inputmode="decimal" @input="conditions.change({ up: value($event) })" />
      <FigureNote :told="told.up" :typed="now.up" @pick="conditions.change({ up: $event })" />
    </label>
    <label>
      Idle delay, ms
      <input
        :value="now.idle"
        inputmode="decimal"
        placeholder="if it shows one"
        @input="conditions.change({ idle: value($event) })"
      />
      <FigureNote :told="told.idle" :typed="now.idle" @pick="conditions.change({ idle: $event })" />
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

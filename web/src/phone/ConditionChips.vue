<script setup lang="ts">
import { computed } from 'vue'

import type { Band, Doors, Situation } from '../api/types'
import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone }>()
const { view, conditions } = props.phone
const { now, bands, client } = conditions

/** The next of a list after this one, round about: one tap a change. */
function next<T>(list: T[], own: T): T {
  return list[(list.indexOf(own) + 1) % list.length] as T
}

const DOORS: Doors[] = ['as_left', 'open', 'shut']
const doorWord: Record<Doors, string> = { as_left: 'as left', open: 'all open', shut: 'all shut' }
const SITUATIONS: Situation[] = ['alone', 'busy_evening']
const situationWord: Record<Situation, string> = { alone: 'nobody', busy_evening: 'the family' }
const className = computed(
  () => view.value?.clients.find((own) => own.key === client.value)?.name.split(',')[0] ?? 'not said',
)
const servingName = computed(
  () => view.value?.devices.find((own) => own.id === now.value?.serving)?.name ?? 'not known',
)
const round = computed(() => view.value?.under)
/** This page first; a tap further, another test whose figures are typed in. */
const TOOLS = ['', 'the TV’s own test', 'a test page', 'another test']
const tool = computed(() => now.value?.tool ?? '')
function nextTool() {
  conditions.change({ tool: TOOLS.includes(tool.value) ? next(TOOLS, tool.value) : '' })
}
</script>

<template>
  <div v-if="now && round" class="chips" role="group" aria-label="Conditions, a tap changes one">
    <button type="button" :class="{ changed: client !== round.client }" @click="client = ''">
      <small>device</small>{{ className }}
    </button>
    <button
      type="button"
      :class="{ changed: now.band !== (round.band ?? null) }"
      @click="conditions.change({ band: next<Band | null>([null, ...bands], now.band) })"
    >
      <small>band</small>{{ now.band ? `${now.band} GHz` : 'any' }}
    </button>
    <button
      type="button"
      :class="{ changed: now.doors !== round.doors }"
      @click="conditions.change({ doors: next(DOORS, now.doors) })"
    >
      <small>doors</small>{{ doorWord[now.doors] }}
    </button>
    <button
      type="button"
      :class="{ changed: now.situation !== round.situation }"
      @click="conditions.change({ situation: next(SITUATIONS, now.situation) })"
    >
      <small>busy</small>{{ situationWord[now.situation] }}
    </button>
    <button
      type="button"
      :class="{ changed: now.serving }"
      @click="
        conditions.change({ serving: next([null, ...view!.devices.map((own) => own.id)], now.serving) })
      "
    >
      <small>served by</small>{{ servingName }}
    </button>
    <button type="button" :class="{ changed: tool }" @click="nextTool">
      <small>tested by</small>{{ tool.trim() || (tool ? 'another test' : 'this page') }}
    </button>
  </div>
</template>

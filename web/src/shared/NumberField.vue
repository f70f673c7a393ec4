<script setup lang="ts">
import { useDebounceFn, useIntervalFn } from '@vueuse/core'
import { computed, inject, onBeforeUnmount, ref } from 'vue'

import type { Quantity } from '../api/types'
import { READER, type ReadOf, shownNumber, unread } from './numbers'
import TypedField from './TypedField.vue'

/**
 * A number of the home, typed as its country writes numbers. What was typed stays in the field until it is read, over a reload too where it
 * is kept by a name; what means no number, or two, never reaches the home.
 */
const props = defineProps<{
  value: number | null | undefined
  of: Quantity
  /** By what a half-typed number is kept; only over this page when it has none. */
  name?: string
  optional?: boolean
}>()
const emit = defineEmits<{ change: [value: number]; clear: [] }>()

/** Longest that something typed waits to be read, ms. */
const PAUSE_MS = 400
/** How often what got no answer is tried again, ms. */
const AGAIN_MS = 2500

const reader = inject(READER)!
const self = Symbol('field')
const shelf = props.name ? `busy-hen typed ${reader.home} ${props.name}` : undefined
const held = ref(shelf ? (localStorage.getItem(shelf) ?? undefined) : undefined)
const told = ref<ReadOf>()
const offline = ref(false)
const focused = ref(false)
/** What the home held before anything was typed. */
let before: number | null | undefined
let gone = false

const shown = computed({
  get: () => held.value ?? shownNumber(props.value, reader.decimals.value),
  set: (text: string | null) => {
    if (held.value === undefined) before = props.value
    hold(text ?? '')
    unread.set(self, 'reading')
    void later()
  },
})

function hold(text: string | undefined) {
  held.value = text
  if (!shelf) return
  if (text === undefined) localStorage.removeItem(shelf)
  else localStorage.setItem(shelf, text)
}

function give(value: number | null | undefined) {
  if (value === props.value || (value == null && props.value == null)) return
  if (value == null) emit('clear')
  else emit('change', value)
}

function settle(value: number | null) {
  give(value)
  unread.set(self, undefined)
  if (!focused.value) hold(undefined)
  else if (shelf) localStorage.removeItem(shelf)
}

async function look() {
  const typed = held.value
  if (typed === undefined) return
  offline.value = false
  if (typed.trim() === '' && props.optional) return settle(null)
  let read
  try {
    ;[read] = await reader.read([{ typed, of: props.of }])
  } catch {
    offline.value = true
    unread.set(self, 'stuck')
    return
  }
  if (typed !== held.value || !read) return
  if (read.value != null) return settle(read.value)
  // Half typed, it may have been read as another number: that goes.
  give(before)
  unread.set(self, 'stuck')
  if (!gone) told.value = { typed, ...read }
}
const later = useDebounceFn(look, PAUSE_MS)

function leave() {
  focused.value = false
  void look()
}
function pick(text: string) {
  hold(text)
  void look()
}
useIntervalFn(() => offline.value && void look(), AGAIN_MS)
if (held.value !== undefined) {
  before = props.value
  void look()
}
onBeforeUnmount(() => {
  gone = true
  unread.set(self, undefined)
})
</script>

<template>
  <TypedField
    v-model="shown"
    :told="told"
    :problem="offline ? 'Not read yet: no answer. It is kept here.' : undefined"
    @focus="focused = true"
    @blur="leave"
    @keydown.enter="look"
    @pick="pick"
  />
</template>

<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'

import type { Picture } from '../../api/types'
import { type Showing, usePictures } from './usePictures'

/** Pictures of these things, each under its name; one can be added where it is said what it shows. */
const props = defineProps<{ names: Map<string, string>; adding?: Showing; label: string }>()
const { list, problem, add, remove } = usePictures()

function shows({ shows: own }: Picture): string {
  if (own.kind === 'spot') return own.spot_id
  if (own.kind === 'device') return own.device_id
  return own.kind === 'room' ? own.room_id : own.level_id
}
const mine = computed(() => list.value.filter((own) => props.names.has(shows(own))))
const name = (own: Picture) => props.names.get(shows(own)) ?? ''
const when = (own: Picture) =>
  new Date(own.at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
const alt = (own: Picture) => `${name(own)}${own.note ? `: ${own.note}` : ''}, ${when(own)}`
const open = shallowRef<Picture>()
const sure = ref(false)
const picker = ref<HTMLInputElement | null>(null)

async function take(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file && props.adding) await add(file, props.adding)
}

function look(own: Picture) {
  sure.value = false
  open.value = own
}

async function throwAway() {
  if (open.value) await remove(open.value.id)
  open.value = undefined
}
</script>

<template>
  <section v-if="mine.length || props.adding" :aria-label="label" class="strip">
    <button v-for="own in mine" :key="own.id" type="button" class="thumb" @click="look(own)">
      <img :src="`/api/pictures/${own.id}`" :alt="alt(own)" loading="lazy" />
      <span class="small">{{ own.note || name(own) }}</span>
    </button>
    <template v-if="props.adding">
      <v-btn size="small" variant="text" @click="picker?.click()">+ picture</v-btn>
      <input
        ref="picker"
        type="file"
        accept="image/*"
        class="visually-hidden"
        tabindex="-1"
        aria-hidden="true"
        @change="take"
      />
    </template>
    <p v-if="problem" class="small" role="alert">{{ problem }}</p>
    <v-dialog
      :model-value="!!open"
      aria-label="Picture"
      max-width="900"
      @update:model-value="open = undefined"
    >
      <v-card v-if="open" :title="name(open)">
        <v-card-text>
          <img class="large" :src="`/api/pictures/${open.id}`" :alt="alt(open)" />
          <p>{{ [open.note, when(open)].filter(Boolean).join(' · ') }}</p>
          <p v-if="sure" role="alert">Thrown away, it can’t be brought back.</p>
          <div class="end">
            <v-btn v-if="!sure" size="small" variant="text" @click="sure = true">Throw away…</v-btn>
            <v-btn v-else size="small" color="error" variant="flat" @click="throwAway">Throw it away</v-btn>
            <v-btn size="small" @click="open = undefined">Close</v-btn>
          </div>
        </v-card-text>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
}

.thumb {
  display: grid;
  gap: 2px;
  width: 124px;
  text-align: left;
}

.thumb img {
  width: 124px;
  height: 84px;
  object-fit: cover;
  border: 1px solid var(--line);
}

.thumb span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.large {
  max-width: 100%;
  max-height: 62vh;
  display: block;
  margin: 0 auto 8px;
}
</style>

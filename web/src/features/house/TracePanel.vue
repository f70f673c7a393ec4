<script setup lang="ts">
import { v4 as newId } from 'uuid'
import { computed, ref } from 'vue'

import { answer, api } from '../../api/client'
import NumberField from '../../shared/NumberField.vue'
import type { Place } from './useDrag'
import { useHouse } from './useHouse'

const emit = defineEmits<{ scale: [] }>()
/** A stretch on the picture whose length is known. */
const props = defineProps<{ stretch?: { from: Place; to: Place } }>()
const house = useHouse()
const picker = ref<HTMLInputElement | null>(null)
const told = ref('')
const known = ref('')
const tracing = computed(() => house.level.value?.tracing)
/** Width at which a picture first lies under the drawing, m. */
const FIRST_WIDTH = 12

async function take(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  const level = house.level.value
  // A picture belongs to a level that the bench knows.
  if (!file || !level || !(await house.draft.flush())) return
  try {
    const id = newId()
    await answer(
      api.POST('/api/homes/{home}/pictures', {
        params: {
          path: { home: house.home.id },
          query: { id, at: new Date().toISOString(), plan: level.id },
        },
        body: file as never,
        bodySerializer: (body) => body as never,
        headers: { 'Content-Type': file.type || 'image/jpeg' },
      }),
    )
    const drawn = house.drawing.value?.levels.find((own) => own.level_id === level.id)
    const width = Math.max(drawn?.width_m ?? 0, FIRST_WIDTH)
    const now = house.level.value
    if (now) {
      now.tracing = {
        picture_id: id,
        x_m: (drawn?.x_m ?? 0) + width / 2,
        y_m: (drawn?.y_m ?? 0) + (drawn?.depth_m || width * 0.7) / 2,
        width_m: width,
        turned: 0,
        shows_part: 0.6,
      }
    }
    told.value = 'Now mark a stretch whose length you know.'
  } catch (error) {
    told.value = (error as Error).message
  }
}

/** Makes the marked stretch as long as is known, about the place where it begins. */
async function scale() {
  const [own, stretch] = [tracing.value, props.stretch]
  if (!own || !stretch || !house.level.value) return
  try {
    const { metres } = await answer(
      api.GET('/api/length', { params: { query: { typed: known.value, unit: house.units.value } } }),
    )
    const now = Math.hypot(stretch.to.x - stretch.from.x, stretch.to.y - stretch.from.y)
    if (now < 0.01) return
    const by = metres / now
    own.x_m = stretch.from.x + (own.x_m - stretch.from.x) * by
    own.y_m = stretch.from.y + (own.y_m - stretch.from.y) * by
    own.width_m *= by
    told.value = 'Scaled. Draw rooms over it with “room”.'
    known.value = ''
  } catch (error) {
    told.value = (error as Error).message
  }
}

function nudge(x: number, y: number) {
  if (!tracing.value) return
  tracing.value.x_m += x
  tracing.value.y_m += y
}
</script>

<template>
  <div class="trace">
    <div>
      <v-btn size="small" @click="picker?.click()">{{
        tracing ? 'Another picture…' : 'Photo or scan of a plan…'
      }}</v-btn>
      <v-btn v-if="tracing" size="small" variant="text" @click="house.level.value!.tracing = null"
        >Take it away</v-btn
      >
      <input
        ref="picker"
        type="file"
        accept="image/png,image/jpeg,image/webp"
        class="visually-hidden"
        tabindex="-1"
        aria-label="Picture of a plan"
        @change="take"
      />
      <p class="small quiet">
        It lies under the drawing of {{ house.level.value?.name }}; rooms drawn over it become lines.
      </p>
    </div>
    <template v-if="tracing">
      <form @submit.prevent="scale">
        <v-btn size="small" @click="emit('scale')">1. Mark a known stretch</v-btn>
        <label class="small">
          2. It is
          <input
            v-model="known"
            :placeholder="house.units.value === 'ft' ? `12'6` : '3.8'"
            aria-label="Length of the marked stretch"
          />
        </label>
        <v-btn size="small" type="submit" :disabled="!stretch || known.trim() === ''">3. Scale</v-btn>
      </form>
      <div class="place">
        <NumberField
          :value="Math.round(tracing.turned * 10) / 10"
          of="angle"
          label="Turned, degrees"
          @change="tracing.turned = $event"
        />
        <label class="small">
          shows through
          <input v-model.number="tracing.shows_part" type="range" min="0" max="1" step="0.05" />
        </label>
        <span role="group" aria-label="Move the picture">
          <v-btn size="small" aria-label="Picture west" @click="nudge(-0.1, 0)">←</v-btn>
          <v-btn size="small" aria-label="Picture east" @click="nudge(0.1, 0)">→</v-btn>
          <v-btn size="small" aria-label="Picture north" @click="nudge(0, -0.1)">↑</v-btn>
          <v-btn size="small" aria-label="Picture south" @click="nudge(0, 0.1)">↓</v-btn>
        </span>
      </div>
    </template>
    <p v-if="told" class="small wide" role="status">{{ told }}</p>
  </div>
</template>

<style scoped>
.trace {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 14px;
}

form,
.place {
  display: grid;
  gap: 8px;
  justify-items: start;
}

input:not([type='range']) {
  border: 0;
  border-bottom: 1px solid var(--quiet);
  padding: 4px;
  width: 90px;
  background: #fff;
}

.wide {
  grid-column: 1 / -1;
}

@media (max-width: 700px) {
  .trace {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import { speed } from '../shared/words'
import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone }>()
const { testing, view, spot } = props.phone

const phaseWord = {
  gathering: 'Waiting for the others to join; all begin together',
  waiting: 'Waiting for another phone to finish',
  idle: 'Delay, nothing else going on',
  down: 'Download',
  up: 'Upload',
  film: 'A film’s data, with a jump after ten seconds; about a minute',
  call: 'A call’s data both ways; twenty seconds',
  walk: 'Walk as people do; tap each place as you pass it',
} as const
const unit = computed(() => {
  const phase = testing.value?.phase
  return phase === 'gathering' ? 's' : phase === 'call' || phase === 'walk' ? 'ms' : 'Mb/s'
})
const rate = computed(() => testing.value?.rates.at(-1))
const trace = computed(() => {
  const rates = testing.value?.rates ?? []
  const top = Math.max(...rates, 1)
  return rates.map((own, index) => `${index * 5},${60 - (own / top) * 56}`).join(' ')
})
</script>

<template>
  <section v-if="testing && spot" aria-label="Test under way" class="testing">
    <h1>{{ spot.name }}</h1>
    <p role="status">{{ testing.beyond ? 'To the far end: ' : '' }}{{ phaseWord[testing.phase] }}</p>
    <p class="big">
      {{ rate === undefined ? '…' : speed(rate) }} <small>{{ unit }}</small>
    </p>
    <svg viewBox="0 0 300 64" role="img" aria-label="The rate so far">
      <polyline :points="trace" />
    </svg>
    <template v-if="testing.phase === 'walk'">
      <div class="passing">
        <button
          v-for="own in view?.spots"
          :key="own.spot_id"
          type="button"
          class="other"
          @click="phone.say({ passed: own.spot_id })"
        >
          {{ own.name }}
        </button>
      </div>
      <button type="button" class="main" @click="phone.say({ over: true })">The walk is over</button>
    </template>
    <p v-else class="small">Stand still and keep this page in view.</p>
    <button type="button" class="other" @click="phone.stop">Stop, keep nothing</button>
  </section>
</template>

<style scoped>
.passing {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
</style>

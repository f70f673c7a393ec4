<script setup lang="ts">
import { computed, ref } from 'vue'

import type { PhoneSpot } from '../api/types'
import { sentence, speed, verdictWord } from '../shared/words'
import ConditionChips from './ConditionChips.vue'
import PictureTaker from './PictureTaker.vue'
import ShownHere from './ShownHere.vue'
import SpotDetails from './SpotDetails.vue'
import SpotFigures from './SpotFigures.vue'
import SpotPlan from './SpotPlan.vue'
import { enoughWord } from './enoughWord'
import { LIMITS, takes } from './takes'
import type { Phone } from './usePhone'

const props = defineProps<{ phone: Phone; spot: PhoneSpot }>()
const emit = defineEmits<{ list: [] }>()
const { view, last, chosen, conditions, expired, busy } = props.phone
const most = computed(() => LIMITS[conditions.limit.value]?.value ?? Infinity)
const skipping = ref(false)
const awake = 'wakeLock' in navigator
const legs = computed(() => (view.value?.far_end ? 2 : 1))
const purpose = computed(() => view.value?.purpose)
const REASONS = ['locked', 'someone sleeps there', 'not wanted']

function next() {
  chosen.value = undefined
  last.value = undefined
}

async function skip(note: string) {
  skipping.value = false
  await props.phone.keep('skipped', props.spot.spot_id, { note })
}
</script>

<template>
  <section v-if="view" aria-label="Spot">
    <h1>{{ spot.name }}</h1>
    <SpotPlan :view="view" :spot="spot" />
    <SpotFigures :phone="phone" />
    <p role="status">
      <b v-if="spot.summary">
        Median {{ speed(spot.summary.down_mbps.median) }} / {{ speed(spot.summary.up_mbps.median) }} Mb/s of
        {{ spot.runs }} run{{ spot.runs === 1 ? '' : 's'
        }}<template v-if="spot.verdict"
          >, {{ view.kind === 'local' ? 'as far as this machine the need is' : 'need' }}
          {{ verdictWord[spot.verdict] }}</template
        >.
      </b>
      <template v-if="purpose === 'application_check' || purpose === 'hand_over_walk'">
        <template v-if="!spot.checks.length">Not checked yet.</template>
      </template>
      <template v-else>{{ sentence(enoughWord(spot)) }}</template>
      <template v-if="spot.skipped"> Passed over; test here when you can.</template>
    </p>
    <ul v-if="spot.checks.length && !last?.told" class="checks small">
      <li v-for="(words, index) in spot.checks.slice(0, 4)" :key="index">{{ words }}</li>
    </ul>

    <button
      v-if="spot.done && view.next && purpose !== 'hand_over_walk'"
      type="button"
      class="main"
      @click="next"
    >
      Next: {{ view.spots.find((own) => own.spot_id === view?.next)?.name }}
    </button>
    <p v-else-if="spot.done && purpose !== 'hand_over_walk'" class="note">All spots have runs enough.</p>

    <ShownHere v-if="conditions.now.value?.tool" :phone="phone" :spot="spot.spot_id" :disabled="busy" />
    <template v-else-if="purpose === 'application_check'">
      <button
        v-for="what in ['film', 'call'] as const"
        :key="what"
        type="button"
        :class="spot.done ? 'other' : 'main'"
        :disabled="expired || busy"
        @click="phone.check(spot.spot_id, what)"
      >
        {{
          what === 'film' ? `A 4K film, ${view.film_mbps} Mb/s` : `A call, ${view.call_mbps} Mb/s both ways`
        }}
      </button>
    </template>
    <button
      v-else-if="purpose === 'hand_over_walk'"
      type="button"
      class="main"
      :disabled="expired || busy"
      @click="phone.walk(spot.spot_id)"
    >
      Walk from here
    </button>
    <button
      v-else-if="purpose === 'family_rush'"
      type="button"
      class="main"
      :disabled="expired || busy"
      @click="phone.rush(spot.spot_id, most)"
    >
      Begin with the others
    </button>
    <button
      v-else
      type="button"
      :class="spot.done ? 'other' : 'main'"
      :disabled="expired || busy"
      @click="phone.test(spot.spot_id, most)"
    >
      {{ spot.runs ? 'Test on here' : 'Test here' }}
    </button>
    <p v-if="expired" class="note">
      The code that this phone was paired by has ended; scan a new one at the bench. What it measured before
      is taken.
    </p>
    <p
      v-if="!conditions.now.value?.tool && !['application_check', 'hand_over_walk'].includes(view.purpose)"
      class="small quiet"
    >
      {{ view.words }}. {{ takes(legs, most, last) }}.
      <template v-if="!awake">This browser can’t keep the screen on here; touch it now and then.</template>
    </p>
    <div class="two">
      <button
        type="button"
        class="other"
        :disabled="expired"
        @click="phone.keep('no_connection', spot.spot_id)"
      >
        No connection here
      </button>
      <button type="button" class="other" @click="emit('list')">Another spot</button>
    </div>
    <ConditionChips :phone="phone" />
    <SpotDetails :phone="phone" :spot="spot.spot_id" :kit="false" />
    <PictureTaker :phone="phone" :spot="spot.spot_id" :name="spot.name" />
    <div v-if="skipping" class="chips" role="group" aria-label="Why it is passed over">
      <button v-for="own in REASONS" :key="own" type="button" @click="skip(own)">{{ own }}</button>
    </div>
    <div class="two">
      <button type="button" class="other" :aria-expanded="skipping" @click="skipping = !skipping">
        Pass over…
      </button>
      <label class="small">
        Data to use
        <select v-model="conditions.limit.value">
          <option v-for="(own, index) in LIMITS" :key="own.title" :value="index">{{ own.title }}</option>
        </select>
      </label>
    </div>
  </section>
</template>

<style scoped>
.checks {
  padding-left: 18px;
  list-style: disc;
}
</style>

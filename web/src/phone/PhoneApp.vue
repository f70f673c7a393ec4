<script setup lang="ts">
import { computed, ref } from 'vue'

import type { PhoneSpot } from '../api/types'
import { isMarked } from '../shared/marks'
import { purposeWord, speed } from '../shared/words'
import ClassQuestion from './ClassQuestion.vue'
import { enoughWord } from './enoughWord'
import MarkedSpot from './MarkedSpot.vue'
import SpotNow from './SpotNow.vue'
import TestingNow from './TestingNow.vue'
import { usePhone } from './usePhone'

const phone = usePhone()
const { view, waiting, homeless, there, problem, testing, last, spot, conditions } = phone
const listing = ref(false)
/** Where the browser trusts the address, the page also loads anew without a connection. */
const trusted = window.isSecureContext
const marked = computed(() => isMarked(view.value?.purpose))

function choose(own: PhoneSpot) {
  phone.stop()
  phone.chosen.value = own.spot_id
  last.value = undefined
  listing.value = false
}
</script>

<template>
  <main class="phone">
    <header>
      <b class="wordmark">Busy Hen</b>
      <span v-if="view">{{ view.home_name }}, setup {{ view.setup }}, {{ purposeWord[view.purpose] }}</span>
    </header>
    <p v-if="waiting.length" class="note" role="status">
      {{ waiting.length }} run{{ waiting.length === 1 ? '' : 's' }} kept on this phone, not sent yet.
      {{ trusted ? 'It is sent' : 'Keep this page open; it is sent' }} by itself when the bench answers.
      <template v-if="homeless">
        The round it is for is not there.
        <button type="button" class="drop" @click="phone.drop">Throw it away</button>
      </template>
    </p>
    <p v-else-if="!there" class="note" role="status">
      The bench does not answer; what you measure is kept here.
    </p>
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <p v-if="!view && !problem" class="quiet">Scan the code that the bench shows under Rounds.</p>

    <template v-if="view && spot">
      <TestingNow v-if="testing" :phone="phone" />
      <ClassQuestion v-else-if="!conditions.known.value" :phone="phone" />
      <MarkedSpot v-else-if="marked" :phone="phone" :spot="spot" />
      <section v-else-if="listing" aria-label="Spots">
        <h1>Where are you?</h1>
        <ul>
          <li v-for="own in view.spots" :key="own.spot_id">
            <button type="button" @click="choose(own)">
              <b>{{ own.name }}</b>
              <span>
                {{ own.summary ? `${speed(own.summary.down_mbps.median)} Mb/s, ` : ''
                }}{{ own.skipped ? 'passed over' : (own.checks[0] ?? enoughWord(own)) }}
              </span>
            </button>
          </li>
        </ul>
        <button type="button" class="other" @click="listing = false">Back</button>
      </section>
      <SpotNow v-else :phone="phone" :spot="spot" @list="listing = true" />
    </template>
  </main>
</template>

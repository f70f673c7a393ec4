<script setup lang="ts">
import { computed, provide, ref } from 'vue'

import type { PhoneSpot } from '../api/types'
import { isMarked } from '../shared/marks'
import { READER } from '../shared/numbers'
import { purposeWord, speed } from '../shared/words'
import AskedNow from './AskedNow.vue'
import ClassQuestion from './ClassQuestion.vue'
import { enoughWord } from './enoughWord'
import { readNumbers } from './link'
import MarkedSpot from './MarkedSpot.vue'
import SpotNow from './SpotNow.vue'
import TestingNow from './TestingNow.vue'
import { usePhone } from './usePhone'

const phone = usePhone()
const { view, waiting, pictures, question, stuck, there, problem, testing, last, spot, conditions } = phone
provide(READER, { home: '', decimals: computed(() => 'point' as const), read: readNumbers })
const listing = ref(false)
/** Whether what is stuck is to be thrown away, as was asked once. */
const dropping = ref(false)
/** Where the browser trusts the address, the page also loads anew without a connection. */
const trusted = window.isSecureContext
const counted = (count: number, what: string) => (count ? [`${count} ${what}${count === 1 ? '' : 's'}`] : [])
const unsentWords = computed(() =>
  [...counted(waiting.value.length, 'run'), ...counted(pictures.value.length, 'picture')].join(' and '),
)
const marked = computed(() => isMarked(view.value?.purpose))

async function drop() {
  dropping.value = false
  await phone.drop()
}

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
    <AskedNow v-if="question" :phone="phone" />
    <p v-else-if="waiting.length || pictures.length" class="note" role="status">
      {{ unsentWords }} kept on this phone, not sent yet.
      {{ trusted ? 'All is sent' : 'Keep this page open; all is sent' }} by itself when the bench answers.
      <template v-if="stuck">
        {{ stuck }} It stays on this phone.
        <button v-if="!dropping" type="button" class="drop" @click="dropping = true">Throw it away…</button>
        <span v-else class="two">
          <button type="button" class="other" @click="drop">Throw away {{ unsentWords }}</button>
          <button type="button" class="other" @click="dropping = false">Keep</button>
        </span>
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

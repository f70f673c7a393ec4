<script setup lang="ts">
import { ref, shallowRef } from 'vue'

import { answer, api, type ApiProblem } from '../../api/client'
import type { FarEndTried } from '../../api/types'
import { useNetwork } from './useNetwork'

const { farEnd, look } = useNetwork()
const address = ref('')
const problem = ref('')
const busy = ref(false)
const tried = shallowRef<FarEndTried>()
/** Whether what was tried is in use from now on. */
const used = shallowRef(false)

async function send(use: boolean) {
  if (busy.value) return
  busy.value = true
  problem.value = ''
  tried.value = undefined
  try {
    const body = { address: address.value }
    const asked = use ? api.PUT('/api/far-end', { body }) : api.POST('/api/far-end/try', { body })
    tried.value = await answer(asked)
    used.value = use
    if (use) address.value = ''
  } catch (error) {
    const { faults = [], message } = error as ApiProblem
    problem.value = faults[0]?.message ?? message
  } finally {
    busy.value = false
  }
  if (use) await look()
}

async function forget() {
  problem.value = ''
  tried.value = undefined
  try {
    await answer(api.DELETE('/api/far-end'))
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
  await look()
}
</script>

<template>
  <form class="server" aria-label="Test server" @submit.prevent="send(true)">
    <p v-if="farEnd?.url" class="small">
      Phones test to this computer, then to <b class="whole">{{ farEnd.url }}</b>.
      <button type="button" class="link" @click="forget">Remove it</button>
    </p>
    <p v-else class="small">
      Without a test server on the internet side, phones measure the home network only. On a computer outside
      the home, run <b class="whole">busy-hen far-end</b> and enter the address that it shows.
    </p>
    <v-text-field
      v-model="address"
      label="Address of the test server, with its token"
      placeholder="http://far.example:8090#token"
      autocomplete="off"
      spellcheck="false"
    />
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <p v-if="tried" class="note small" :class="{ bad: tried.problem }" role="status">
      <template v-if="tried.problem">{{ tried.problem }}</template>
      <template v-else>
        It answers in {{ Math.max(1, Math.round(tried.took_ms ?? 0)) }} ms and sees this home at
        {{ tried.sees }}.
      </template>
      {{ used ? 'It is used from now on.' : '' }}
    </p>
    <div class="row">
      <v-btn :disabled="!address || busy" @click="send(false)">Try it</v-btn>
      <v-btn type="submit" variant="flat" color="primary" :disabled="!address || busy"> Use it </v-btn>
    </div>
  </form>
</template>

<style scoped>
.server {
  display: grid;
  gap: 10px;
}

.server p {
  margin: 0;
}

.row {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}

.whole {
  overflow-wrap: anywhere;
}

.link {
  text-decoration: underline;
}
</style>

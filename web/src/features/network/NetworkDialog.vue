<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { answer, api, type ApiProblem } from '../../api/client'
import type { NetworkChange, PhoneAway } from '../../api/types'
import OpenNetwork from './OpenNetwork.vue'
import TestServer from './TestServer.vue'
import { useNetwork } from './useNetwork'

const { network, shown, look } = useNetwork()
const problem = ref('')
/** Whether closing was asked for once, and is to be said again. */
const closing = ref(false)

const clock = (at: string) =>
  new Date(at).toLocaleTimeString([], { weekday: 'short', hour: '2-digit', minute: '2-digit' })
const CHANGE: Record<NetworkChange, string> = {
  opened: 'opened to the network',
  closed: 'closed',
  codes_ran_out: 'closed by itself: the last code had expired',
  unused: 'closed by itself: no phone was paired for an hour',
}
const phones = computed(() => network.value?.phones ?? [])
const waits = ({ waiting }: PhoneAway) => {
  if (waiting == null) return 'may hold runs'
  return waiting > 0 ? `${waiting} not sent yet` : 'all sent then; it may hold later runs'
}

async function close() {
  problem.value = ''
  try {
    await answer(api.DELETE('/api/network'))
    closing.value = false
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
  await look()
}

watch(shown, (now) => {
  closing.value = false
  if (now) void look()
})
</script>

<template>
  <v-dialog v-model="shown" aria-label="Network" max-width="560" scrollable>
    <v-card title="Network">
      <v-card-text>
        <section v-if="network?.open" aria-label="Open to the network">
          <p>Other devices reach this computer at</p>
          <ul class="doors">
            <li v-for="own in network.doors" :key="own.url">
              <b>{{ own.url }}</b>
              <small>
                {{ own.interface.name
                }}{{ own.interface.wireless == null ? '' : own.interface.wireless ? ', Wi-Fi' : ', cable' }}
              </small>
            </li>
          </ul>
          <p v-if="network.always" class="small">
            It was started that way and stays open until it is stopped.
          </p>
          <p v-else-if="network.closes_at" class="small">
            It closes by itself when the last code has expired, at {{ clock(network.closes_at) }}.
          </p>
          <p v-else class="small">No code is valid at present; it closes by itself soon.</p>
          <template v-if="phones.length">
            <p class="small">
              These phones may hold runs that are not sent yet. They keep them, and send them when it is open
              again at the same address.
            </p>
            <ul class="small phones">
              <li v-for="own in phones" :key="`${own.address} ${own.setup}`">
                {{ own.address }}, {{ own.home }}, setup {{ own.setup }}: last contact
                {{ clock(own.heard_at) }},
                {{ waits(own) }}
              </li>
            </ul>
          </template>
          <div v-if="network.may_change" class="row">
            <template v-if="closing">
              <v-btn @click="closing = false">Keep it open</v-btn>
              <v-btn variant="flat" color="error" @click="close">Close all the same</v-btn>
            </template>
            <v-btn v-else @click="phones.length ? (closing = true) : close()">Close network access</v-btn>
          </div>
          <p v-else-if="!network.always" class="small quiet">It is closed on the computer that it runs on.</p>
        </section>
        <OpenNetwork v-else />
        <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
        <h3>Test server</h3>
        <TestServer />
        <details v-if="network?.events.length" class="small">
          <summary>Log</summary>
          <ul>
            <li v-for="own in network.events" :key="own.at">{{ clock(own.at) }} {{ CHANGE[own.change] }}</li>
          </ul>
        </details>
        <div class="row"><v-btn size="small" @click="shown = false">Done</v-btn></div>
      </v-card-text>
    </v-card>
  </v-dialog>
</template>

<style scoped>
p {
  margin: 0 0 8px;
}

h3 {
  margin: 18px 0 6px;
}

.doors {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}

.doors small {
  color: var(--quiet);
  margin-left: 8px;
}

.phones,
details ul {
  padding-left: 18px;
  margin: 0 0 8px;
}

.row {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  margin-top: 10px;
}
</style>

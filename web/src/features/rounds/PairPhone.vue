<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'

import { answer, api, type ApiProblem } from '../../api/client'
import type { CodeView, Door, NewPhone } from '../../api/types'
import { OpenNetwork, useNetwork } from '../network'

const props = defineProps<{ round: string }>()
const emit = defineEmits<{ close: [] }>()

const { network, look } = useNetwork()
const made = shallowRef<NewPhone>()
/** Whether it is asked first to open the bench to the network. */
const closed = ref(false)
const chosen = ref(0)
const problem = ref('')
/** All codes of the round, newest first. */
const codes = shallowRef<CodeView[]>([])
/** Which of them is shown. */
const shown = ref<string>()
const ended = computed(() => codes.value.find((own) => own.id === shown.value)?.open === false)
const door = computed(() => made.value?.doors[chosen.value])
const doors = computed(() => made.value?.doors.map((own, value) => ({ title: title(own), value })) ?? [])
const host = computed(() => (door.value ? new URL(door.value.url).host : ''))

function title({ interface: own }: Door): string {
  const kind = own.wireless == null ? '' : own.wireless ? ', Wi-Fi' : own.name === 'lo' ? '' : ', cable'
  const port = own.port_mbps ? `, ${own.port_mbps} Mb/s` : ''
  return `${own.address} (${own.name}${kind}${port})`
}

async function pair() {
  closed.value = false
  try {
    const got = await answer(
      api.POST('/api/rounds/{round}/phones', {
        params: { path: { round: props.round } },
        body: { stand_in: false },
      }),
    )
    // A cable is to be preferred: what is measured then is the kit, not this machine's own Wi-Fi.
    const wired = got.doors.findIndex((own) => own.interface.wireless === false)
    chosen.value = Math.max(wired, 0)
    made.value = got
    await list()
    shown.value = codes.value[0]?.id
    await look()
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
}

async function list() {
  codes.value = await answer(
    api.GET('/api/rounds/{round}/phones', { params: { path: { round: props.round } } }),
  )
}

/** Ends a code; phones keep what they measured before and still send it. */
async function withdraw(code: string) {
  problem.value = ''
  try {
    await answer(
      api.DELETE('/api/rounds/{round}/phones/{code}', { params: { path: { round: props.round, code } } }),
    )
    await list()
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
}

const clock = (at: string) =>
  new Date(at).toLocaleTimeString([], { weekday: 'short', hour: '2-digit', minute: '2-digit' })
const stands = (own: CodeView) =>
  own.open
    ? `open until ${clock(own.ends_at)}`
    : `${own.withdrawn ? 'withdrawn' : 'ended'} ${clock(own.ends_at)}`
void (async () => {
  await look()
  if (network.value?.open === false) closed.value = true
  else await pair()
})()
</script>

<template>
  <v-card title="Pair a phone">
    <v-card-text>
      <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
      <template v-if="closed">
        <OpenNetwork @opened="pair" />
        <p class="small">
          Or pair only a page on this computer, to see how it works:
          <button type="button" class="link" @click="pair">Only on this computer</button>
        </p>
      </template>
      <template v-if="!closed && made && door">
        <p v-if="!made.open_to_network" class="note small">
          This code works on this computer only.
          <button type="button" class="link" @click="closed = true">Open to the network</button>
        </p>
        <v-select v-if="doors.length > 1" v-model="chosen" :items="doors" label="Address of this machine" />
        <p v-if="ended" class="note small" role="status">
          The code shown before is withdrawn.
          <v-btn size="small" @click="pair">Make a new code</v-btn>
        </p>
        <div v-else class="pair">
          <!-- Made by the server from the address alone. -->
          <!-- eslint-disable-next-line vue/no-v-html -->
          <div class="code" role="img" :aria-label="`Code for ${host}`" v-html="door.qr_svg" />
          <div class="small">
            <p>Join the home’s Wi-Fi on the phone, then scan this code with its camera.</p>
            <p>
              <a :href="door.url" target="_blank" rel="noreferrer">Open the phone’s page here</a>
            </p>
            <p>
              It lets this phone test and add readings to this round, and nothing else, until
              {{ new Date(made.expires_at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }) }}.
              Whoever sees the code can do the same.
            </p>
          </div>
        </div>
        <p v-if="door.interface.wireless" class="note small">
          This address is of this machine’s own Wi-Fi: both ends then share the air, and the test shows half
          or less of what a phone gets. Plug the machine into the router.
        </p>
        <details v-if="codes.length" class="small">
          <summary>Codes of this round ({{ codes.filter((own) => own.open).length }} open)</summary>
          <p>A withdrawn code tests no more. What its phone measured before is still taken for 30 days.</p>
          <ul class="codes">
            <li v-for="(own, index) in codes" :key="own.id">
              <span>
                Code {{ codes.length - index }}{{ own.stand_in ? ', simulated phone' : ''
                }}{{ own.id === shown && own.open ? ', shown above' : '' }}: made {{ clock(own.made_at) }},
                {{ stands(own) }}
              </span>
              <v-btn v-if="own.open" size="x-small" @click="withdraw(own.id)">Withdraw</v-btn>
            </li>
          </ul>
        </details>
        <details class="small">
          <summary>The phone’s page does not open</summary>
          <ul>
            <li>
              <b>Mobile data:</b> the phone may leave Wi-Fi without internet by itself. Turn mobile data off
              and try again.
            </li>
            <li>
              <b>Guest network:</b> it keeps devices apart. Join the main network; an address like
              {{ host }} must be reachable.
            </li>
            <li>
              <b>Firewall of this machine:</b> when the page opens here but on no phone, let
              {{ host }} through.
            </li>
            <li><b>Wrong address:</b> choose another above, the one of the network that the phone is in.</li>
          </ul>
        </details>
      </template>
      <div class="buttons"><v-btn size="small" @click="emit('close')">Close</v-btn></div>
    </v-card-text>
  </v-card>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 220px 1fr;
  gap: 16px;
  align-items: start;
}

.link {
  text-decoration: underline;
}

.code {
  width: 220px;
  height: 220px;
}

.code :deep(svg) {
  width: 100%;
  height: 100%;
}

.pair p,
.note {
  margin: 0 0 10px;
}

details ul {
  padding-left: 18px;
  display: grid;
  gap: 4px;
}

.codes {
  list-style: none;
  padding: 0;
}

.codes li {
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
  min-height: 28px;
}

.buttons {
  display: flex;
  justify-content: flex-end;
  margin-top: 10px;
}

@media (max-width: 600px) {
  .pair {
    grid-template-columns: 1fr;
  }
}
</style>

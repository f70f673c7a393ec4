<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'

import { answer, api } from '../../api/client'
import type { KeptPassword, ShownPassword } from '../../api/types'
import { useHome } from '../bench'

/** Makes passwords up. Each is shown once, here, and kept by nobody unless the installer wants it kept under a pass phrase. */
const props = defineProps<{ networks: string[] }>()

const home = useHome()
const network = ref('')
const shown = shallowRef<ShownPassword & { what: string; network: string; kept: boolean }>()
const problem = ref('')
const pass = ref('')
/** The kept one that is being opened. */
const opening = ref<KeptPassword>()
const keeping = ref(false)
const busy = ref(false)
const kept = computed(() => home.view.value?.home.passwords ?? [])

/** Does something; what was typed stays where it was refused. */
async function ask(work: () => Promise<void | boolean>) {
  if (busy.value) return
  busy.value = true
  problem.value = ''
  try {
    if ((await work()) === false) return
    // A pass phrase stands nowhere longer than it is needed.
    pass.value = ''
    keeping.value = false
    opening.value = undefined
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = false
  }
}

const make = (name: string) =>
  ask(async () => {
    const got = await answer(api.POST('/api/new-password', { body: { network: name.trim() } }))
    const what = name.trim() ? `network ${name.trim()}` : 'an admin page'
    shown.value = { ...got, what, network: name.trim(), kept: false }
  })

const keep = () =>
  ask(async () => {
    const own = shown.value
    if (!own) return
    const done = await home.change((header) =>
      api.POST('/api/homes/{home}/passwords', {
        params: { path: { home: home.id }, header },
        body: {
          what: own.what.trim(),
          network: own.network,
          password: own.password,
          pass_phrase: pass.value,
        },
      }),
    )
    if (done) shown.value = { ...own, kept: true }
    return done
  })

const open = (own: KeptPassword) =>
  ask(async () => {
    const got = await answer(
      api.POST('/api/homes/{home}/passwords/{password}/open', {
        params: { path: { home: home.id, password: own.id } },
        body: { pass_phrase: pass.value },
      }),
    )
    shown.value = { ...got, what: own.what, network: own.network ?? '', kept: true }
  })

const forget = (own: KeptPassword) =>
  ask(async () => {
    return await home.change((header) =>
      api.DELETE('/api/homes/{home}/passwords/{password}', {
        params: { path: { home: home.id, password: own.id }, header },
      }),
    )
  })

function put(own: KeptPassword) {
  opening.value = opening.value?.id === own.id ? undefined : own
  keeping.value = false
  pass.value = ''
}
</script>

<template>
  <section aria-label="Passwords">
    <h3>Passwords</h3>
    <p class="small quiet">
      Each is shown this once and kept nowhere: not in the home, its file or a log. Write it down for the
      family; or keep it under a pass phrase, without which nobody reads it.
    </p>
    <div class="row">
      <v-text-field v-model="network" label="Name of the network" maxlength="32" list="own-networks" />
      <datalist id="own-networks">
        <option v-for="own in props.networks" :key="own" :value="own" />
      </datalist>
      <v-btn size="small" :disabled="!network?.trim()" @click="make(network)">For this network</v-btn>
      <v-btn size="small" variant="text" @click="make('')">For an admin page</v-btn>
    </div>
    <div v-if="shown" class="made" aria-live="polite">
      <!-- Drawn by the server from what was typed. -->
      <!-- eslint-disable vue/no-v-html -->
      <div
        v-if="shown.qr_svg"
        class="code"
        role="img"
        :aria-label="`Code to join ${shown.network}`"
        v-html="shown.qr_svg"
      />
      <!-- eslint-enable vue/no-v-html -->
      <div>
        <p class="small quiet">{{ shown.what }}</p>
        <code>{{ shown.password }}</code>
        <p v-if="shown.kept" class="small quiet" role="status">Kept under the pass phrase.</p>
        <button v-else-if="!keeping" type="button" class="text small" @click="keeping = true">
          Keep it under a pass phrase …
        </button>
        <button type="button" class="text small" @click="shown = undefined">
          {{ shown.kept ? 'Hide it' : 'It is written down: forget it' }}
        </button>
      </div>
    </div>
    <form v-if="keeping && shown" class="row" @submit.prevent="keep">
      <v-text-field v-model="shown.what" label="What it is for" maxlength="60" />
      <v-text-field v-model="pass" type="password" label="Pass phrase" autocomplete="off" />
      <v-btn size="small" type="submit" :disabled="busy || !pass">Keep it</v-btn>
      <v-btn size="small" variant="text" @click="keeping = false">Not now</v-btn>
    </form>
    <ul v-if="kept.length" class="small kept" aria-label="Kept passwords">
      <li v-for="own in kept" :key="own.id">
        {{ own.what }}
        <button
          type="button"
          class="text"
          :aria-expanded="opening?.id === own.id"
          :aria-label="`open … ${own.what}`"
          @click="put(own)"
        >
          open …
        </button>
        <button type="button" class="text" :aria-label="`throw it away: ${own.what}`" @click="forget(own)">
          throw it away
        </button>
        <form v-if="opening?.id === own.id" class="row" @submit.prevent="open(own)">
          <v-text-field v-model="pass" type="password" label="Its pass phrase" autocomplete="off" />
          <v-btn size="small" type="submit" :disabled="busy || !pass">Show it</v-btn>
        </form>
      </li>
    </ul>
    <p v-if="problem" role="alert" class="small refused">{{ problem }}</p>
  </section>
</template>

<style scoped>
h3,
p {
  margin: 0;
}

h3 {
  font-size: 1rem;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
}

.row > :first-child {
  flex: 1 1 160px;
}

.made {
  display: flex;
  gap: 14px;
  align-items: center;
  background: #fff;
  border: 1px solid var(--line);
  padding: 10px;
  margin-top: 8px;
}

.code {
  width: 150px;
  flex: none;
}

.code :deep(svg) {
  width: 100%;
  height: auto;
  display: block;
}

code {
  display: block;
  font-size: 1.15rem;
  user-select: all;
}

.made .text {
  margin-right: 10px;
}

.kept .text {
  margin-left: 8px;
}

.kept {
  margin: 8px 0 0;
  padding-left: 18px;
  display: grid;
  gap: 4px;
}
</style>

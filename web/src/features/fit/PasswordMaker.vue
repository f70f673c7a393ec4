<script setup lang="ts">
import { ref, shallowRef } from 'vue'

import { answer, api } from '../../api/client'

/** Makes passwords up. Each is shown once, here, and kept by nobody. */
const props = defineProps<{ networks: string[] }>()

const network = ref('')
const made = shallowRef<{ network: string; password: string; qr_svg?: string | null }>()
const problem = ref('')

async function make(name: string) {
  try {
    const got = await answer(api.POST('/api/new-password', { body: { network: name.trim() } }))
    made.value = { network: name.trim(), ...got }
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <section aria-label="Passwords">
    <h3>Passwords</h3>
    <p class="small quiet">
      Each is shown this once and kept nowhere: not in the home, its file or a log. Write it down for the
      family.
    </p>
    <div class="row">
      <v-text-field v-model="network" label="Name of the network" maxlength="32" list="own-networks" />
      <datalist id="own-networks">
        <option v-for="own in props.networks" :key="own" :value="own" />
      </datalist>
      <v-btn size="small" :disabled="!network?.trim()" @click="make(network)">For this network</v-btn>
      <v-btn size="small" variant="text" @click="make('')">For an admin page</v-btn>
    </div>
    <p v-if="problem" role="alert" class="small refused">{{ problem }}</p>
    <div v-if="made" class="made" aria-live="polite">
      <!-- Drawn by the server from what was typed. -->
      <!-- eslint-disable vue/no-v-html -->
      <div
        v-if="made.qr_svg"
        class="code"
        role="img"
        :aria-label="`Code to join ${made.network}`"
        v-html="made.qr_svg"
      />
      <div>
        <p class="small quiet">{{ made.network || 'admin page' }}</p>
        <code>{{ made.password }}</code>
        <div>
          <v-btn size="small" variant="text" @click="made = undefined">It is written down: forget it</v-btn>
        </div>
      </div>
    </div>
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
  font-size: 1.15rem;
  user-select: all;
}
</style>

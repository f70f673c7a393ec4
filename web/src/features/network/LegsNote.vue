<script setup lang="ts">
import { useNetwork } from './useNetwork'

/** Which legs a phone tests in a round of this kind, told before it begins. */
defineProps<{ kind: 'internet' | 'second_line' | 'local' }>()

const { farEnd, shown } = useNetwork()
</script>

<template>
  <p v-if="kind === 'local'" class="small quiet">A phone tests one leg: to this computer.</p>
  <p v-else-if="farEnd?.url" class="small quiet">
    A phone tests two legs at each press: to this computer, then through the
    {{ kind === 'second_line' ? 'second line' : 'line' }} to {{ farEnd.url }}.
  </p>
  <p v-else-if="farEnd" class="small quiet">
    A phone tests one leg: to this computer. No test server is set up, so it measures nothing of the internet;
    type in what another test shows, or
    <button type="button" class="link" @click="shown = true">set up a test server</button>.
  </p>
</template>

<style scoped>
p {
  margin: 0;
}

.link {
  text-decoration: underline;
}
</style>

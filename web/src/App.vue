<script setup lang="ts">
import { ref } from 'vue'

import { onLocked } from './api/client'
import { LockView } from './features/lock'
import { NetworkDialog } from './features/network'

const locked = ref(false)
onLocked(() => (locked.value = true))
</script>

<template>
  <v-app>
    <LockView v-if="locked" @open="locked = false" />
    <template v-else>
      <router-view />
      <NetworkDialog />
    </template>
  </v-app>
</template>

<script setup lang="ts">
import { ref } from 'vue'

import { onLocked } from './api/client'
import { LockView } from './features/lock'

const locked = ref(false)
onLocked(() => (locked.value = true))
</script>

<template>
  <v-app>
    <LockView v-if="locked" @open="locked = false" />
    <router-view v-else />
  </v-app>
</template>

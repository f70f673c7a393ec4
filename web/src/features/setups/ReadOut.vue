<script setup lang="ts">
import { computed } from 'vue'

import type { ChainView, Setup } from '../../api/types'
import { speed } from '../../shared/words'

/** What a place gets, from whom, and what limits it. */
const props = defineProps<{ answer: ChainView; setup: Setup }>()

const got = computed(() => props.answer.prediction)
const limit = computed(() => {
  const chain = props.answer.chain
  return chain && chain.limiting != null ? chain.links[chain.limiting]?.label : undefined
})
const nameOf = (id: string) => props.setup.devices.find((device) => device.id === id)?.name ?? ''
</script>

<template>
  <div>
    <template v-if="got.served">
      <b>{{ speed(got.down.middle) }}</b> down, <b>{{ speed(got.up.middle) }}</b> up Mb/s, likely
      {{ speed(got.down.poor) }} to {{ speed(got.down.good) }}<br />
      {{ got.latency_ms.toFixed(0) }} ms, {{ got.served.signal_dbm.toFixed(0) }} dBm at
      {{ got.served.band }} GHz from {{ nameOf(got.served.device) }}<br />
      limited by the {{ limit }}
    </template>
    <template v-else-if="got.plugged_into">
      <b>{{ speed(got.down.middle) }}</b> down, <b>{{ speed(got.up.middle) }}</b> up Mb/s<br />
      by cable from {{ nameOf(got.plugged_into) }}<br />
      limited by the {{ limit }}
    </template>
    <template v-else>nothing holds here</template>
  </div>
</template>

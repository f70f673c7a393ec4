<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'

import { answer, api } from '../../api/client'
import type { SheetView } from '../../api/types'
import { useBench, useHome } from '../bench'

/** Asks the kit itself whether settings took: what its report says is answered in the sheet, as said by the kit. */
const emit = defineEmits<{ told: [view: SheetView] }>()

const home = useHome()
const bench = useBench()
const address = useLocalStorage(`busy-hen kit report ${home.id}`, '')
const told = ref<string[]>([])
const answered = ref<number>()
const problem = ref('')
const busy = ref(false)

async function look() {
  const setup = bench.setupId
  if (!setup || busy.value) return
  busy.value = true
  try {
    const got = await answer(
      api.POST('/api/homes/{home}/setups/{setup}/kit-looks', {
        params: { path: { home: home.id, setup } },
        body: { kit_report: address.value.trim() },
      }),
    )
    problem.value = ''
    answered.value = got.answered
    told.value = got.told
    emit('told', got.view)
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section aria-label="What the kit says">
    <h3>What the kit itself says</h3>
    <p class="small quiet">
      Where it gives a report of its network (Wi-Fi Data Elements), the steps of “Did it take?” that it says
      something to are answered by it.
    </p>
    <form class="row" @submit.prevent="look">
      <v-text-field
        v-model="address"
        label="Address of its report"
        placeholder="http://192.168.1.1/report.json"
        maxlength="200"
      />
      <v-btn size="small" type="submit" :disabled="busy || !address?.trim()">Look</v-btn>
    </form>
    <p v-if="answered !== undefined && !problem" class="small" role="status">
      {{ answered }} step{{ answered === 1 ? '' : 's' }} answered by it.
    </p>
    <ul v-if="told.length && !problem" class="small">
      <li v-for="own in told" :key="own">{{ own }}</li>
    </ul>
    <p v-if="problem" role="alert" class="small">{{ problem }}</p>
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

ul {
  margin: 2px 0 0;
  padding-left: 18px;
}
</style>

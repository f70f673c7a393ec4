<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { NextView, RoundView } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { useBench, useHome } from '../bench'

/** The spot of a round whose reading would teach most, and the question to the family that decides something. */
const props = defineProps<{ open: RoundView }>()
defineEmits<{ take: [spot: string] }>()

const home = useHome()
const bench = useBench()
const next = shallowRef<NextView>()
const done = computed(() => props.open.spots.filter((own) => own.run_total > 0).map((own) => own.spot_id))
const look = useLatest(async () => {
  try {
    next.value = await answer(
      api.POST('/api/homes/{home}/setups/{setup}/next', {
        params: { path: { home: home.id, setup: props.open.round.setup_id } },
        body: {
          ask: { ...bench.ask, kind: props.open.round.kind, client: props.open.round.client },
          done: done.value,
        },
      }),
    )
  } catch (error) {
    home.fail(error)
  }
})
watch([() => props.open.round.id, done, () => home.view.value?.readings], () => look(undefined), {
  immediate: true,
})
const best = computed(() =>
  next.value?.spots.find((own) => props.open.spots.some((row) => row.spot_id === own.spot_id)),
)
const name = computed(() => props.open.spots.find((own) => own.spot_id === best.value?.spot_id)?.name)
</script>

<template>
  <p v-if="best && name" class="note small" role="status" aria-label="What would teach most">
    What would teach most next: <b>{{ name }}</b>. It {{ best.told }}.
    <button type="button" @click="$emit('take', best.spot_id)">Type a run there</button>
    <template v-if="next?.question"><br />To ask the family: {{ next.question.told }}</template>
  </p>
</template>

<style scoped>
button {
  text-decoration: underline;
  text-decoration-style: dotted;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Doors, HomeView, Layer, Situation, TestKind } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { useBench } from '../bench'
import WordMenu from './WordMenu.vue'

/** What the map answers, as one sentence whose bold words are menus. */
const props = defineProps<{ view: HomeView }>()

const bench = useBench()
const catalogue = useCatalogue()

const clients = computed(
  // The width it is held to is told in the chain; here it would only make the sentence long.
  () =>
    catalogue.value?.clients.map((own) => ({ title: own.name.replace(/, \d+ MHz$/, ''), value: own.key })) ??
    [],
)
const situations: { title: string; value: Situation }[] = [
  { title: 'nothing else busy', value: 'alone' },
  { title: 'in the busy evening', value: 'busy_evening' },
]
const doors: { title: string; value: Doors }[] = [
  { title: 'as left', value: 'as_left' },
  { title: 'all open', value: 'open' },
  { title: 'all shut', value: 'shut' },
]
const kinds = computed<{ title: string; value: TestKind }[]>(() => [
  { title: 'internet', value: 'internet' },
  ...(props.view.home.brief.second_line
    ? [{ title: 'internet (second line)', value: 'second_line' as TestKind }]
    : []),
  { title: 'local', value: 'local' },
])
const layers = computed<{ title: string; value: Layer }[]>(() => [
  { title: 'what works', value: { kind: 'works' } },
  ...(bench.kind !== 'local' ? [{ title: 'share of the plan', value: { kind: 'plan_share' } as Layer }] : []),
  { title: 'signal at 2.4 GHz', value: { kind: 'signal', band: '2.4' } },
  { title: 'signal at 5 GHz', value: { kind: 'signal', band: '5' } },
  { title: 'signal at 6 GHz', value: { kind: 'signal', band: '6' } },
  { title: 'who serves', value: { kind: 'serves' } },
  { title: 'how far the speed may be off', value: { kind: 'doubt' } },
  { title: 'how well the signal is known', value: { kind: 'known' } },
  ...(props.view.tested.length
    ? [{ title: 'what readings changed', value: { kind: 'learnt' } as Layer }]
    : []),
  ...props.view.home.setups
    .filter((own) => own.id !== bench.setupId)
    .map((own) => ({
      title: `difference to ${own.letter}, ${own.name}`,
      value: { kind: 'difference', setup_id: own.id } as Layer,
    })),
])
</script>

<template>
  <p class="question">
    What a
    <WordMenu v-model="bench.client" label="Seen by" :items="clients" />
    gets,
    <WordMenu v-model="bench.situation" label="Household" :items="situations" />, doors
    <WordMenu v-model="bench.doors" label="Doors" :items="doors" />, by an
    <WordMenu v-model="bench.kind" label="Test to" :items="kinds" />
    test, shown as
    <WordMenu v-model="bench.layer" label="Shown as" :items="layers" />
  </p>
</template>

<style scoped>
.question {
  background: var(--night);
  color: #c9cbd6;
  padding: 6px 14px 4px;
  font-size: 0.86rem;
  line-height: 1.5;
}
</style>

<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import type { SheetStep, TickOutcome } from '../../api/types'
import UnsentNote from '../../shared/UnsentNote.vue'
import { HandOverList, useBench, useHome } from '../bench'
import KitLooks from './KitLooks.vue'
import PasswordMaker from './PasswordMaker.vue'
import StepCard from './StepCard.vue'
import { useRunSheet } from './useRunSheet'
import { stageWord } from './words'

const home = useHome()
const bench = useBench()
const { view, words, say, by, unsent } = useRunSheet()
const { waiting, problem, refused } = unsent

const setup = computed(() => home.view.value?.home.setups.find((own) => own.id === bench.setupId))
const steps = computed(() => view.value?.sheet.steps ?? [])
const stages = computed(() => {
  const list: { stage: SheetStep['stage']; steps: SheetStep[] }[] = []
  for (const step of steps.value) {
    if (list.at(-1)?.stage !== step.stage) list.push({ stage: step.stage, steps: [] })
    list.at(-1)!.steps.push(step)
  }
  return list
})
const chosen = ref('')
const firstOpen = () => steps.value.find((own) => !words.value.has(own.key))?.key ?? steps.value[0]?.key ?? ''
watch([steps, () => bench.setupId], () => {
  if (!steps.value.some((own) => own.key === chosen.value)) chosen.value = firstOpen()
})
const at = computed(() => steps.value.findIndex((own) => own.key === chosen.value))
const step = computed(() => steps.value[at.value])
const place = computed(() =>
  step.value ? `${stageWord[step.value.stage]} · step ${at.value + 1} of ${steps.value.length}` : '',
)
const networks = computed(
  () =>
    [
      ...new Set(
        (setup.value?.devices ?? [])
          .flatMap((own) => [own.network_name, own.guest_network])
          .filter((own) => !!own),
      ),
    ] as string[],
)
const today = new Date().toLocaleDateString()

const mark = (own: SheetStep) => {
  const kind = words.value.get(own.key)?.outcome.kind
  if (!kind) return { sign: '', word: 'open' }
  if (kind === 'skipped') return { sign: '–', word: 'left out' }
  if (kind === 'not_seen' || kind === 'straggles') return { sign: '!', word: 'not so' }
  return { sign: '✓', word: 'done' }
}

function choose(key: string) {
  chosen.value = key
}
function move(by: number) {
  const next = steps.value[at.value + by]
  if (next) choose(next.key)
}
async function answer(outcome: TickOutcome | null, note: string) {
  if (!step.value) return
  say(step.value, outcome, note)
  if (!outcome) return
  // On to the next that is open, behind this one first.
  const open = [...steps.value.slice(at.value + 1), ...steps.value.slice(0, at.value)]
  const next = open.find((own) => !words.value.has(own.key))
  if (next) choose(next.key)
  await nextTick()
  document.querySelector('.steps [aria-current]')?.scrollIntoView({ block: 'nearest' })
}
const printLabels = () => window.print()
</script>

<template>
  <div class="page fit">
    <header>
      <h1>Fit setup {{ setup?.letter }}: {{ setup?.name }}</h1>
      <p v-if="view" role="status">
        {{ view.report.told }}
      </p>
      <UnsentNote :waiting="waiting" :problem="problem" :refused="refused" @forget="unsent.forget" />
      <label class="by small">Ticked by <input v-model="by" maxlength="40" placeholder="your name" /></label>
    </header>
    <p v-if="!setup" class="quiet">A setup is needed first: draw one under Setups.</p>
    <p v-else-if="!view" class="quiet">Writing the sheet …</p>
    <div v-else class="body">
      <div class="work">
        <ul v-if="view.sheet.first.length" aria-label="Before anything is begun">
          <li v-for="own in view.sheet.first" :key="own" class="note small"><b>First:</b> {{ own }}</li>
        </ul>
        <StepCard
          v-if="step && setup"
          :step="step"
          :tick="words.get(step.key)"
          :setup="setup"
          :place="place"
          @say="answer"
          @next="move"
        />
        <nav class="steps" aria-label="Steps">
          <section v-for="own in stages" :key="own.stage">
            <h3>{{ stageWord[own.stage] }}</h3>
            <ol>
              <li v-for="one in own.steps" :key="one.key">
                <button
                  type="button"
                  :aria-current="one.key === chosen ? 'step' : undefined"
                  @click="choose(one.key)"
                >
                  <i :class="mark(one).word.replace(' ', '-')" aria-hidden="true">{{ mark(one).sign }}</i>
                  <span
                    >{{ one.what
                    }}<em v-if="words.get(one.key)?.by" class="small quiet">
                      {{ words.get(one.key)?.by }}</em
                    ></span
                  >
                  <span class="visually-hidden">({{ mark(one).word }})</span>
                </button>
              </li>
            </ol>
          </section>
        </nav>
      </div>
      <aside>
        <section aria-label="What was not done">
          <h3>What is left</h3>
          <p v-if="view.report.complete" class="small">Nothing.</p>
          <details v-else :open="view.report.answered > 0 && view.report.not_done.length < 9">
            <summary class="small">{{ view.report.not_done.length }} to say at the end</summary>
            <ul class="small">
              <li v-for="own in view.report.not_done" :key="own">{{ own }}</li>
            </ul>
          </details>
        </section>
        <section aria-label="Tools">
          <h3>To bring</h3>
          <ul class="small">
            <li v-for="own in view.sheet.tools" :key="own">{{ own }}</li>
          </ul>
        </section>
        <KitLooks @told="view = $event" />
        <HandOverList />
        <PasswordMaker :networks="networks" />
        <section aria-label="Labels" class="labels">
          <h3>
            Labels <button type="button" class="text small no-print" @click="printLabels">print</button>
          </h3>
          <ul>
            <li v-for="own in view.sheet.labels" :key="own.device_id">
              <b>{{ own.name }}</b> {{ own.place }}<br />{{ own.channels }}<br />{{ today }}
            </li>
          </ul>
        </section>
      </aside>
    </div>
  </div>
</template>

<style scoped>
.fit {
  display: grid;
  gap: 10px;
}

header {
  display: grid;
  gap: 4px;
}

.by input {
  border: 0;
  border-bottom: 1px solid var(--quiet);
  background: none;
  padding: 2px 4px;
  font: inherit;
}

.body {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 20px;
  align-items: start;
}

.work,
aside {
  display: grid;
  gap: 14px;
}

h3,
p,
header p {
  margin: 0;
}

h3 {
  font-size: 1rem;
}

ol,
aside ul {
  margin: 2px 0 0;
  padding-left: 18px;
}

.steps ol {
  list-style: none;
  padding: 0;
}

.steps {
  display: grid;
  gap: 12px;
}

.steps button {
  display: flex;
  gap: 10px;
  align-items: baseline;
  width: 100%;
  min-height: 32px;
  padding: 4px 8px;
  text-align: left;
  font-size: 0.92rem;
}

.steps button[aria-current] {
  background: #fff;
  font-weight: 600;
}

i {
  flex: none;
  width: 18px;
  height: 18px;
  border: 1.5px solid var(--quiet);
  font-style: normal;
  font-size: 0.8rem;
  line-height: 15px;
  text-align: center;
}

em {
  margin-left: 6px;
}

i.done {
  background: var(--leaf);
  border-color: var(--leaf);
  color: #fff;
}

i.not-so {
  border-color: var(--comb);
  color: var(--comb);
  font-weight: 700;
}

.note {
  border-left: 4px solid var(--yolk);
  padding: 2px 10px;
  list-style: none;
}

.work > ul {
  padding: 0;
  margin: 0;
}

.labels ul {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 6px;
}

.labels li {
  border: 1px dashed var(--quiet);
  padding: 6px 8px;
  font-size: 0.82rem;
  background: #fff;
  break-inside: avoid;
}

@media (max-width: 900px) {
  .body {
    grid-template-columns: 1fr;
  }

  .steps button {
    min-height: 44px;
  }
}
</style>

<style>
@media print {
  body:has(.fit) :is(nav, header, .work, aside > :not(.labels), .no-print) {
    display: none !important;
  }
}
</style>

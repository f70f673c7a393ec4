<script setup lang="ts">
import { computed, onScopeDispose, watch } from 'vue'

import { api } from '../../api/client'
import type { DrawnLesson, HomeView, CalibrationView, NextView } from '../../api/types'
import { useBench } from './useBench'
import { useHome } from './useHome'
import { useOfSetup } from './useOfSetup'

/** What readings taught of the home, and what would teach most next. */
const props = defineProps<{
  view: HomeView
  /** Whether it stands beside the lit map. */
  onMap?: boolean
}>()
const emit = defineEmits<{ learnt: [lessons: DrawnLesson[]] }>()

const home = useHome()
const bench = useBench()
const learnt = useOfSetup<CalibrationView>(() =>
  api.GET('/api/homes/{home}/calibration', { params: { path: { home: home.id } } }),
)
const next = useOfSetup<NextView>((setup) =>
  api.POST('/api/homes/{home}/setups/{setup}/next', {
    params: { path: { home: home.id, setup } },
    body: { ask: bench.ask, done: learnt.value?.spots ?? [] },
  }),
)
const shown = computed(() =>
  next.value?.spots.filter((own) => !learnt.value?.spots.includes(own.spot_id)).slice(0, 3),
)
const roomName = (id: string) => props.view.home.house.rooms.find((own) => own.id === id)?.name ?? 'a room'
const count = (many: number, what: string) => `${many} ${what}${many === 1 ? '' : 's'}`

async function go(tables_alone: boolean) {
  await home.change((header) =>
    api.PUT('/api/homes/{home}/tables-alone', {
      params: { path: { home: home.id }, header },
      body: { tables_alone },
    }),
  )
}

/** Shows which walls a lesson is about, on the map or on the drawing of their level; the same again shows none. */
function point(lesson: DrawnLesson) {
  const levels = lesson.drawn.map((own) => own.level_id)
  if (!props.onMap && !levels.includes(bench.levelId ?? '')) bench.levelId = levels[0]
  bench.pointed = bench.pointed === lesson.drawn ? [] : lesson.drawn
}
watch(learnt, (own) => emit('learnt', own?.lessons ?? []), { immediate: true })
onScopeDispose(() => {
  bench.pointed = []
  emit('learnt', [])
})
</script>

<template>
  <section aria-label="What was learnt">
    <p v-if="!learnt" class="quiet">Looking at the readings …</p>
    <p v-else-if="!learnt.runs.length" class="quiet">
      Nothing yet: readings with their signal teach what walls and devices here really do. Take some under
      <router-link :to="{ name: 'rounds' }">Rounds</router-link>.
    </p>
    <template v-else>
      <p>
        From {{ count(learnt.runs.length, learnt.made_up ? 'made-up run' : 'run') }} at
        {{ count(learnt.spots.length, 'spot') }}: the tables alone are
        <b>{{ learnt.off_by_tables_db?.toFixed(1) }} dB</b> off in the middle; what the readings at all other
        spots foretell, <b>{{ learnt.off_foretold_db?.toFixed(1) }} dB</b>.
        <template v-if="learnt.made_up">The stand-in made them up: they teach of no real home.</template>
      </p>
      <p class="by" role="radiogroup" aria-label="Predict by">
        Predict by
        <label
          ><input type="radio" :checked="!learnt.tables_alone" @change="go(false)" /> what was learnt</label
        >
        <label
          ><input type="radio" :checked="learnt.tables_alone" @change="go(true)" /> the tables alone</label
        >
        <template v-if="onMap">
          <span class="quiet small">Shown on the map:</span>
          <button type="button" class="text" @click="bench.layer = { kind: 'learnt' }">
            what it changed
          </button>
          <button type="button" class="text" @click="bench.layer = { kind: 'known' }">
            how well places are known
          </button>
          <button type="button" class="text" @click="bench.layer = { kind: 'works' }">what works</button>
        </template>
      </p>
      <ul v-if="learnt.lessons.length" class="lessons">
        <li v-for="lesson in learnt.lessons" :key="lesson.told">
          <button
            v-if="lesson.drawn.length"
            type="button"
            class="text"
            :aria-pressed="bench.pointed === lesson.drawn"
            @click="point(lesson)"
          >
            {{ lesson.told }}
          </button>
          <template v-else>{{ lesson.told }}</template>
        </li>
      </ul>
      <p v-else class="quiet">
        Nothing stands out so far: walls, floors and radios are as the tables say, as far as these readings
        can tell.
      </p>
    </template>
    <div v-if="shown?.length || next?.question" class="next">
      <h3>What would teach most next</h3>
      <ol>
        <li v-for="own in shown" :key="own.spot_id">
          Read <b>{{ roomName(own.room_id) }}</b>: {{ own.told }}.
        </li>
      </ol>
      <p v-if="next?.question">Ask: {{ next.question.told }}</p>
    </div>
  </section>
</template>

<style scoped>
section {
  font-size: 0.88rem;
  display: grid;
  gap: 8px;
}

.by {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
}

.lessons,
ol {
  margin: 0;
  padding-left: 18px;
  display: grid;
  gap: 3px;
}

.text[aria-pressed='true'] {
  font-weight: 700;
}

h3 {
  font-size: 0.88rem;
}
</style>

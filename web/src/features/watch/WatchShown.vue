<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { WatchReport } from '../../api/types'
import { seconds, speed, when } from '../../shared/words'
import DayStrip from './DayStrip.vue'
import { day, millis, wayWord } from './words'

/** What a watch saw: what it shows, a strip a day of one address, evenings against nights. */
const props = defineProps<{ told: WatchReport }>()

const target = ref(0)
/** The address that something is told of is looked at first. */
watch(
  () => props.told.head.id,
  () => (target.value = props.told.findings.find((own) => own.target != null)?.target ?? 0),
  { immediate: true },
)
const ends = computed<[number, number]>(() => {
  const cells = props.told.days.flatMap((own) => own.targets[target.value]?.hours ?? [])
  const medians = cells.flatMap((cell) => cell.median_ms || [])
  return medians.length ? [Math.min(...medians), Math.max(...medians)] : [1, 1]
})
const percent = (part: number) => `${(part * 100).toFixed(part < 0.001 ? 2 : 1)} %`
const transfers = computed(() => props.told.days.some((own) => own.transfers.length))
</script>

<template>
  <div class="shown">
    <p class="small quiet">
      <template v-if="told.from && told.to">{{ when(told.from) }} to {{ when(told.to) }}, </template>
      a knock every {{ told.head.every_s }} s, from a machine
      {{ told.head.by_wire ? 'by wire' : 'by radio' }}.
    </p>
    <p v-if="told.head.made_up" class="note small">
      Made up by a stand-in home, for trying things out: nothing of it was measured.
    </p>
    <ul class="findings" aria-label="What it shows">
      <li v-for="own in told.findings" :key="own.told" :class="own.shows">
        <button v-if="own.target != null" type="button" class="text" @click="target = own.target">
          {{ own.told }}
        </button>
        <span v-else>{{ own.told }}</span>
        <span v-if="own.because" class="small quiet">{{ own.because }}</span>
      </li>
      <li v-if="!told.findings.length">It has seen nothing yet.</li>
    </ul>
    <div class="targets" role="group" aria-label="Which address">
      <button
        v-for="(own, index) in told.head.targets"
        :key="own.name"
        type="button"
        class="which"
        :aria-pressed="index === target"
        @click="target = index"
      >
        {{ own.name }} <span class="small quiet">{{ wayWord[own.way] }}</span>
      </button>
    </div>
    <table class="strips small">
      <thead>
        <tr>
          <th scope="col">day</th>
          <th scope="col" class="hours">
            <span v-for="hour in [0, 6, 12, 18, 24]" :key="hour" :style="{ left: `${(hour / 24) * 100}%` }">{{
              `${hour} h`
            }}</span>
          </th>
          <th scope="col" class="figure">least, median, most, ms</th>
          <th scope="col" class="figure">drops</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="own in told.days" :key="own.day">
          <th scope="row">{{ day(own.day) }}</th>
          <td class="hours"><DayStrip :day="own" :target="target" :ends="ends" /></td>
          <td class="figure">
            <template v-if="own.targets[target]?.took">
              {{ millis(own.targets[target]!.took!.min_ms) }} ·
              <b>{{ millis(own.targets[target]!.took!.median_ms) }}</b> ·
              {{ millis(own.targets[target]!.took!.max_ms) }}
            </template>
            <template v-else>{{ own.targets[target]?.asked ? 'no answer' : 'not watched' }}</template>
          </td>
          <td class="figure">
            <template v-if="own.targets[target]?.drops.length"
              ><b>{{ own.targets[target]!.drops.length }}</b
              >, {{ seconds(own.targets[target]!.away_s) }}</template
            >
            <template v-else>–</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="legend small quiet">
      <i class="slow" /> the darker, the longer an answer took <i class="drop" /> no answer
      <i class="hole" /> not watched
    </p>
    <div class="below" role="region" aria-label="Evenings and transfers" tabindex="0">
      <table v-if="told.parts.some((own) => own.evening && own.night)" class="small">
        <caption>
          Evenings against nights
        </caption>
        <thead>
          <tr>
            <th scope="col">address</th>
            <th scope="col" class="figure">18 to 23 h, ms</th>
            <th scope="col" class="figure">1 to 6 h, ms</th>
            <th scope="col" class="figure">unanswered</th>
            <th scope="col" class="figure">drops</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(own, index) in told.parts" :key="index">
            <th scope="row">{{ told.head.targets[index]?.name }}</th>
            <td class="figure">{{ millis(own.evening?.median_ms) }}</td>
            <td class="figure">{{ millis(own.night?.median_ms) }}</td>
            <td class="figure">
              {{ own.evening ? percent(own.evening.lost_part) : '–' }} /
              {{ own.night ? percent(own.night.lost_part) : '–' }}
            </td>
            <td class="figure">{{ own.evening?.drops ?? '–' }} / {{ own.night?.drops ?? '–' }}</td>
          </tr>
        </tbody>
      </table>
      <table v-if="transfers" class="small">
        <caption>
          Short transfers, Mb/s (no test)
        </caption>
        <tbody>
          <tr v-for="own in told.days" :key="own.day">
            <th scope="row">{{ day(own.day) }}</th>
            <td v-for="one in own.transfers" :key="one.at_h" class="figure">
              <span class="quiet">{{ Math.floor(one.at_h) }} h</span>
              {{ one.speed_mbps == null ? 'broke' : speed(one.speed_mbps) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.shown {
  display: grid;
  gap: 10px;
  min-width: 0;
}

.findings {
  list-style: none;
  display: grid;
  gap: 6px;
}

.findings li {
  display: grid;
  border-left: 4px solid var(--line);
  padding: 2px 10px;
}

.findings li.drops_at_hours,
.findings li.never_answered {
  border-color: var(--comb);
}

.findings li.restarts,
.findings li.drops,
.findings li.losses,
.findings li.slow_evenings,
.findings li.other_answers {
  border-color: var(--yolk);
}

.findings li.all_well {
  border-color: var(--leaf);
}

.findings .text {
  text-decoration: none;
  font-weight: 600;
}

.note {
  border-left: 4px solid var(--yolk);
  padding: 2px 10px;
}

.targets {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  border-bottom: 1px solid var(--line);
}

.which {
  padding: 6px 2px;
  min-height: 32px;
  border-bottom: 3px solid transparent;
}

.which[aria-pressed='true'] {
  border-color: var(--copper);
  font-weight: 600;
}

table {
  border-collapse: collapse;
}

.strips {
  width: 100%;
}

caption {
  text-align: left;
  font-weight: 600;
}

th {
  font-weight: 400;
  text-align: left;
  white-space: nowrap;
  padding-right: 10px;
}

td {
  padding: 2px 0;
}

.figure {
  text-align: right;
  padding-left: 14px;
  white-space: nowrap;
}

.hours {
  width: 70%;
  position: relative;
}

th.hours {
  height: 1.8em;
}

th.hours span {
  position: absolute;
  top: 0;
  transform: translateX(-50%);
}

th.hours span:first-child {
  transform: none;
}

th.hours span:last-child {
  transform: translateX(-100%);
}

.legend i {
  display: inline-block;
  width: 14px;
  height: 10px;
  margin: 0 4px 0 12px;
}

.legend i:first-child {
  margin-left: 0;
}

.legend .slow {
  background: linear-gradient(90deg, rgb(107 74 99 / 10%), var(--plum));
  width: 40px;
}

.legend .drop {
  background: var(--comb);
}

.legend .hole {
  border: 1px dashed var(--quiet);
}

.below {
  display: flex;
  align-items: start;
  flex-wrap: wrap;
  gap: 12px 40px;
  overflow-x: auto;
}

@media (width < 700px) {
  .strips,
  .strips thead,
  .strips tbody {
    display: block;
  }

  .strips tr {
    display: grid;
    grid-template-columns: 1fr auto auto;
    margin-bottom: 6px;
  }

  .strips .hours {
    width: 100%;
    grid-column: 1 / -1;
    grid-row: 2;
  }

  .strips thead .figure {
    display: none;
  }
}
</style>

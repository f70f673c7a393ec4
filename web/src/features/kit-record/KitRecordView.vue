<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'

import { answer, api } from '../../api/client'
import type { KitRecord, Over } from '../../api/types'
import { length, seconds } from '../../shared/words'
import { partWord } from '../drills'

/** What became of kit over all homes: what was measured, drilled, ticked and noted of it. */
const records = shallowRef<KitRecord[]>()
const problem = ref('')

onMounted(async () => {
  try {
    records.value = await answer(api.GET('/api/kit-record'))
  } catch (error) {
    problem.value = (error as Error).message
  }
})

const percent = (part: number) => `${Math.round(part * 100)} %`
const from = (over: Over, thing: string) =>
  `${over.count} ${thing}${over.count === 1 ? '' : 's'} in ${over.homes} home${over.homes === 1 ? '' : 's'}`
const half = (over: Over, say: (value: number) => string) =>
  over.count > 1 ? `${say(over.figures.lower_quartile)} to ${say(over.figures.upper_quartile)}, ` : ''
/** Rows of one kit: what, its middle, and what it is from. */
function lines(own: KitRecord) {
  const list: { what: string; middle: string; rest: string }[] = []
  const add = (
    what: string,
    over: Over | null | undefined,
    say: (value: number) => string,
    thing: string,
  ) => {
    if (over)
      list.push({ what, middle: say(over.figures.median), rest: `${half(over, say)}${from(over, thing)}` })
  }
  add('share of the ceiling', own.share, percent, 'spot')
  add('a radio hop leaves', own.hop_leaves, percent, 'hop')
  add('held outdoors to', own.range_m, (m) => length(m, own.units), 'walk')
  for (const one of own.recovery)
    add(
      `${one.of_power ? 'power pulled' : 'cable pulled'}: ${partWord[one.part]}`,
      one.took_s,
      seconds,
      'drill',
    )
  add('to set one up', own.setup_minutes, (min) => `${Math.round(min)} min`, 'device')
  const [cool = 0, warm = 0, hot = 0] = own.warmth
  if (cool + warm + hot)
    list.push({
      what: 'its case',
      middle: hot ? 'hot' : warm ? 'warm' : 'cool',
      rest: `cool ${cool}, warm ${warm}, hot ${hot} times`,
    })
  return list
}
</script>

<template>
  <main class="page record">
    <RouterLink class="link" to="/">All homes</RouterLink>
    <h1>Kit record</h1>
    <p class="quiet">
      What your own homes say of each kit: what was measured, drilled, ticked and noted. Readings that the
      stand-in phone made up count for nothing.
    </p>
    <p v-if="problem" role="alert">{{ problem }}</p>
    <p v-else-if="!records" class="quiet">Looking through all homes …</p>
    <p v-else-if="!records.length">
      Nothing yet. Local tests at spots, range walks, drills, ticks of run sheets and notes at the stop Watch
      make it grow.
    </p>
    <ul v-else class="cards">
      <li v-for="own in records" :key="own.kit">
        <h2>{{ own.name }}</h2>
        <p v-if="own.told" class="few small">{{ own.told }}</p>
        <table class="small">
          <tbody>
            <tr v-for="line in lines(own)" :key="line.what">
              <th scope="row">{{ line.what }}</th>
              <td>
                <b>{{ line.middle }}</b>
              </td>
              <td class="quiet">{{ line.rest }}</td>
            </tr>
          </tbody>
        </table>
        <p v-for="fault in own.faults" :key="fault" class="fault small">Fault: {{ fault }}</p>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.record {
  display: grid;
  gap: 12px;
  padding: 16px 24px;
  max-width: 1280px;
  align-content: start;
}

.cards {
  list-style: none;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(400px, 100%), 1fr));
  gap: 14px;
  align-items: start;
}

.cards li {
  background: #fff;
  border: 1px solid var(--line);
  padding: 12px 14px;
  display: grid;
  gap: 6px;
}

table {
  border-collapse: collapse;
}

th {
  font-weight: 400;
  text-align: left;
}

b {
  white-space: nowrap;
}

th,
td {
  padding: 2px 12px 2px 0;
  vertical-align: top;
}

.few {
  border-left: 4px solid var(--yolk);
  padding-left: 10px;
}

.fault {
  border-left: 4px solid var(--comb);
  padding-left: 10px;
}
</style>

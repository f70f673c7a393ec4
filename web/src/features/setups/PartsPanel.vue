<script setup lang="ts">
import { onBeforeUnmount, watch } from 'vue'

import { api } from '../../api/client'
import type { Parts } from '../../api/types'
import { money, speed } from '../../shared/words'
import { useBench, useHome, useOfSetup } from '../bench'

/** What the setup is put together from: what to buy, which way cables go, which port is whose. */
const props = defineProps<{ setup: string }>()

const home = useHome()
const bench = useBench()
const parts = useOfSetup<Parts>((setup) =>
  api.GET('/api/homes/{home}/setups/{setup}/parts', { params: { path: { home: home.id, setup } } }),
)
// While it is open, the map shows the ways of its cables.
watch(parts, (now) => (bench.ways = now?.cables ?? []))
onBeforeUnmount(() => (bench.ways = []))
</script>

<template>
  <section aria-label="Parts">
    <p v-if="!parts" class="quiet">Counting …</p>
    <template v-else>
      <p class="head">
        <b>{{ parts.told }}</b>
        <span v-if="parts.fees_a_year" class="small">and {{ money(parts.fees_a_year) }} a year in fees</span>
        <a
          v-if="parts.lines.length || parts.cables.length"
          :href="`/api/homes/${home.id}/setups/${props.setup}/parts.csv`"
          download
          class="small"
          >as a table (CSV)</a
        >
      </p>
      <div class="columns">
        <table v-if="parts.lines.length">
          <thead>
            <tr>
              <th scope="col">To buy</th>
              <th scope="col" class="figure">How much</th>
              <th scope="col" class="figure">Price</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(line, index) in parts.lines" :key="index">
              <td>
                {{ line.what }} <span class="quiet for">for {{ line.for_what }}</span>
              </td>
              <td class="figure">{{ line.count }} {{ line.unit }}</td>
              <td class="figure">
                <span v-if="line.usual_price" class="quiet">about </span>{{ money(line.price) }}
              </td>
            </tr>
          </tbody>
        </table>
        <div>
          <ul v-if="parts.cables.length" class="cables" aria-label="Cables">
            <li v-for="run in parts.cables" :key="run.device_id">
              <button type="button" class="link" @click="bench.openDevice(run.device_id)">
                {{ run.loose ? 'Loose' : 'Cable' }} to {{ run.name }}
              </button>
              from {{ run.from_name }}{{ run.port ? `, port ${run.port}` : '' }}, {{ run.class_name }}:
              {{ run.told }}.
              <span v-if="run.cannot" class="bad">{{ run.cannot }}</span>
            </li>
          </ul>
          <ul v-if="parts.ports.length" class="ports" aria-label="Ports">
            <li v-for="map in parts.ports" :key="map.device_id">
              <b>{{ map.name }}</b>
              <span v-if="map.ports != null" class="quiet">
                {{ map.ports }} port{{ map.ports === 1 ? '' : 's' }} of
                {{ speed(map.speed_mbps) }} Mb/s<template v-if="map.feeds_w"
                  >, feeding {{ map.needs_w }} of {{ map.feeds_w }} W</template
                >
              </span>
              <ol>
                <li v-for="used in map.used" :key="used.device_id">
                  {{ used.port }} {{ used.name }}<template v-if="used.feeds"> (fed)</template>
                </li>
              </ol>
              <span v-if="map.short" class="bad">{{ map.short }}</span>
            </li>
          </ul>
        </div>
      </div>
      <p class="small quiet">
        Prices “about” are what such things commonly cost, in your money; describe your own kit to have yours.
        Ways of cables are estimates to half a metre. Before drilling look for hidden wires and pipes; mains
        and outdoor work by local codes and licensed hands.
      </p>
    </template>
  </section>
</template>

<style scoped>
section,
.columns > div {
  display: grid;
  gap: 8px;
  align-content: start;
}

section {
  font-size: 0.86rem;
}

.head {
  display: flex;
  gap: 6px 16px;
  flex-wrap: wrap;
  align-items: baseline;
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 8px 24px;
}

table {
  border-collapse: collapse;
  font-size: 0.8rem;
  align-self: start;
}

th {
  text-align: left;
  font-weight: 600;
  color: var(--quiet);
}

td,
th {
  padding: 3px 10px 3px 0;
  border-bottom: 1px solid var(--line);
  vertical-align: top;
}

/* What it is for stands under it, smaller. */
.for {
  display: block;
  font-size: 0.74rem;
}

.figure {
  text-align: right;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}

ul,
ol {
  list-style: none;
  padding: 0;
  font-size: 0.8rem;
}

.ports > li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}

.ports ol {
  display: flex;
  gap: 10px;
}

.link {
  text-decoration: underline;
}

.bad {
  color: var(--comb);
}

@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

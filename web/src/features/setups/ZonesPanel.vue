<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { Remedy, Zone } from '../../api/types'
import { area, money, speed } from '../../shared/words'
import { useBench, useHome, useOfSetup } from '../bench'

/** Rooms that do not get what they need, why, and what would mend each. */
const props = defineProps<{ setup: string }>()

const home = useHome()
const bench = useBench()
const zones = useOfSetup<Zone[]>((setup) =>
  api.POST('/api/homes/{home}/setups/{setup}/dead-zones', {
    params: { path: { home: home.id, setup } },
    body: { ask: bench.ask },
  }),
)
const asked = ref<string>()
const remedies = shallowRef<Remedy[]>()
watch(zones, () => {
  asked.value = undefined
  remedies.value = undefined
})

async function look(room_id: string) {
  asked.value = room_id
  remedies.value = undefined
  try {
    const found = await answer(
      api.POST('/api/homes/{home}/setups/{setup}/remedies', {
        params: { path: { home: home.id, setup: props.setup } },
        body: { ask: bench.ask, room_id },
      }),
    )
    if (asked.value === room_id) remedies.value = found
  } catch (error) {
    home.fail(error)
  }
}

async function attempt(room_id: string, what: string) {
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/try-remedy', {
      params: { path: { home: home.id, setup: props.setup }, header },
      body: { ask: bench.ask, room_id, what },
    }),
  )
  if (done) bench.setupId = home.view.value?.home.setups.at(-1)?.id
}

const basis: Record<Zone['known_by'], string> = {
  measured: 'measured there',
  made_up: 'made up there',
  learnt: 'predicted, with what readings taught',
  tables: 'predicted',
}
const units = () => home.view.value?.home.units ?? 'm'
const extent = (zone: Zone) =>
  zone.area_m2 > 0 ? `, ${area(zone.area_m2, units())} of ${area(zone.room_area_m2, units())}` : ''
/** What is short there, with what is needed. */
function short({ short_of }: Zone) {
  if (short_of.of === 'delay')
    return `answers take ${Math.round(short_of.has_ms)} ms, ${Math.round(short_of.needs_ms)} needed`
  const way = short_of.of === 'download' ? 'down' : 'up'
  return `${speed(short_of.has_mbps)} of ${speed(short_of.needs_mbps)} Mb/s ${way}`
}
const then = (own: Remedy, zone: Zone) =>
  zone.short_of.of === 'delay' ? `${Math.round(own.then_ms)} ms` : `${speed(own.then_mbps)} Mb/s down`
const percent = (part: number) => `${Math.round(part * 100)} %`
const costs = (own: Remedy) =>
  own.free
    ? 'free'
    : own.costs == null
      ? 'price not known'
      : own.costs === 0
        ? 'nothing to buy'
        : `costs ${money(own.costs)}`
</script>

<template>
  <section aria-label="Dead zones">
    <p v-if="!zones" class="quiet">Looking into every corner …</p>
    <p v-else-if="!zones.length && !bench.ledger.some((own) => own.need)" class="quiet">
      No room has a need noted: say who does what where under
      <router-link :to="{ name: 'brief' }">Brief</router-link>.
    </p>
    <p v-else-if="!zones.length" class="quiet">Every room gets what it needs, as far as is known.</p>
    <article v-for="zone in zones" :key="zone.room_id">
      <p>
        <b>{{ zone.name }}</b>{{ extent(zone) }}: {{ short(zone) }}.
        <span class="quiet">{{ percent(zone.likely_part) }} likely, {{ basis[zone.known_by] }}.</span>
      </p>
      <p class="small">
        {{ zone.cause }}.<template v-if="zone.wall"> Most hangs on {{ zone.wall }}.</template>
      </p>
      <button v-if="asked !== zone.room_id" type="button" class="text" @click="look(zone.room_id)">
        What would mend it?
      </button>
      <p v-else-if="!remedies" class="quiet small">Trying things out …</p>
      <p v-else-if="!remedies.length" class="quiet small">Nothing that is tried here helps by itself.</p>
      <ol v-else>
        <li v-for="own in remedies.slice(0, 6)" :key="own.what">
          <span>
            {{ own.what }}: <b>{{ then(own, zone) }}</b>, {{ percent(own.likely_part) }} likely met;
            {{ costs(own)
            }}<template v-if="own.loses.length">; then {{ own.loses.join(', ') }} lacks</template>
          </span>
          <button v-if="own.as_copy" type="button" class="text" @click="attempt(zone.room_id, own.what)">
            Try it as a copy
          </button>
        </li>
      </ol>
    </article>
  </section>
</template>

<style scoped>
section {
  font-size: 0.88rem;
  display: grid;
  gap: 10px;
}

article {
  display: grid;
  gap: 2px;
  border-left: 3px solid var(--straw);
  padding-left: 10px;
}

ol {
  padding-left: 18px;
  display: grid;
  gap: 2px;
}

.text {
  margin-left: 6px;
}
</style>

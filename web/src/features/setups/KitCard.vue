<script setup lang="ts">
import { computed } from 'vue'

import type { Kit, LengthUnit } from '../../api/types'
import { WANTS } from '../../shared/wants'
import { area, modeWord, money, speed } from '../../shared/words'

/** What is known of a type of device. */
const props = defineProps<{ kit: Kit; units: LengthUnit; own: boolean }>()
const emit = defineEmits<{ place: []; series: []; describe: []; remove: [] }>()

const facts = computed(() => props.kit.facts ?? {})
const about = computed(() => (props.own ? '' : 'about '))
const WARMTH = { cool: 'hardly warm', warm: 'warm to the hand', hot: 'hot: it wants air around it' }
const WEATHER = {
  indoors: 'indoors only',
  under_roof: 'outdoors under a roof',
  outdoors: 'outdoors, in rain and frost',
}
const TOLD = {
  steps: 'good, fair or poor',
  signal: 'its signal',
  signal_and_rate: 'its signal and link rate',
}
const ITEM = { injector: 'injector', supply: 'plug-in supply', mount: 'mount' }
const wanted = (how: string) =>
  (facts.value.functions ?? [])
    .filter((own) => own.comes === how)
    .map((own) => WANTS.find((one) => one.value === own.what)?.title)

const rows = computed<[string, string][]>(() => {
  const own = facts.value
  const list: [string, string | undefined | false | null][] = [
    [
      'Radios',
      props.kit.radios
        .map(
          (radio) =>
            `${radio.band} GHz ${radio.generation}, ${radio.streams} streams, ${radio.max_width_mhz} MHz${radio.serves ? '' : ', kept for backhaul'}`,
        )
        .join('; ') || 'none',
    ],
    ['Can be', props.kit.modes.map((mode) => modeWord[mode]).join(', ')],
    [
      'Ports',
      `${speed(props.kit.uplink_port_mbps)} Mb/s towards the router; ${own.lan_ports ?? 'some'} of ${speed(props.kit.lan_port_mbps)} Mb/s towards the home`,
    ],
    [
      'Feeds',
      own.feeding_ports
        ? `${own.feeding_ports} ports${own.feeds_w ? `, ${own.feeds_w} W together` : ''}`
        : undefined,
    ],
    [
      'Power',
      [
        props.kit.powered_by_cable ? 'fed by its network cable' : 'from an outlet',
        own.needs_w && `up to ${own.needs_w} W`,
        own.mains_v && `${own.mains_v.from_v} to ${own.mains_v.to_v} V`,
        own.blocks_next_outlet && 'covers the next outlet',
      ]
        .filter(Boolean)
        .join(', '),
    ],
    ['Warmth', own.warmth && WARMTH[own.warmth]],
    ['Stands', WEATHER[own.weather ?? 'indoors']],
    ['Guides phones', own.steers_with ? `with ${own.steers_with}` : 'no'],
    ['Tells its uplink', own.tells_uplink && TOLD[own.tells_uplink]],
    [
      'Aerials',
      props.kit.aerial && props.kit.aerial.kind !== 'built_in'
        ? `${props.kit.aerial.kind === 'rods' ? 'rods' : 'panel'}, ${props.kit.aerial.gain_dbi} dBi${own.takes_aerials ? ', can be changed' : ''}`
        : own.takes_aerials
          ? 'can be changed'
          : 'inside',
    ],
    [
      'Price',
      own.price == null
        ? undefined
        : [
            `${about.value}${money(own.price)}`,
            ...(own.packs ?? []).map((pack) => `${pack.count} for ${money(pack.price)}`),
            own.fee_a_year ? `${money(own.fee_a_year)} a year` : '',
          ]
            .filter(Boolean)
            .join('; '),
    ],
    ['Warranty', own.warranty_years != null && `${own.warranty_years} years`],
    [
      'Claimed area',
      own.claimed_area_m2 != null &&
        `${area(own.claimed_area_m2, props.units)} by its maker; the map shows what it reaches here`,
    ],
    ['Control', own.control && (own.control === 'full' ? 'every setting' : 'simple')],
    ['Has', wanted('included').join(', ')],
    ['For a fee', wanted('for_a_fee').join(', ')],
    ['Lacks', wanted('lacking').join(', ')],
    [
      'In the box',
      (own.in_box ?? [])
        .map((item) => (item.kind === 'cable' ? `cable of ${item.length_m} m` : ITEM[item.kind]))
        .join(', '),
    ],
    ['Here', own.known_here],
  ]
  return list.filter((one): one is [string, string] => !!one[1])
})
</script>

<template>
  <section :aria-label="`About ${kit.name}`">
    <h3>{{ kit.name }}</h3>
    <div class="acts">
      <v-btn size="small" variant="flat" color="primary" @click="emit('place')">Place it</v-btn>
      <v-btn v-if="kit.radios.length" size="small" @click="emit('series')">Its usual series</v-btn>
    </div>
    <dl class="small">
      <template v-for="[name, told] in rows" :key="name">
        <dt>{{ name }}</dt>
        <dd>{{ told }}</dd>
      </template>
    </dl>
    <div class="acts">
      <button type="button" class="small link" @click="emit('describe')">
        {{ own ? 'change it' : 'describe my own like it' }}
      </button>
      <button v-if="own" type="button" class="small link" @click="emit('remove')">take it out</button>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
  padding: 6px 2px 10px;
  border-bottom: 1px solid var(--line);
}

h3,
dl {
  margin: 0;
}

h3 {
  font-size: 0.86rem;
}

dl {
  display: grid;
  grid-template-columns: 88px minmax(0, 1fr);
  gap: 2px 8px;
}

dt {
  color: var(--quiet);
}

dd {
  margin: 0;
}

.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}

.link {
  text-decoration: underline;
}
</style>

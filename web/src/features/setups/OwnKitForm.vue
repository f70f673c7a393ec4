<script setup lang="ts">
import { inject, onBeforeUnmount, reactive, watch } from 'vue'

import type { Comes, Kit, KitRadio, Quantity } from '../../api/types'
import NumberField from '../../shared/NumberField.vue'
import { READER, unread } from '../../shared/numbers'
import { useCatalogue } from '../../shared/useCatalogue'
import { WANTS } from '../../shared/wants'
import { modeWord } from '../../shared/words'

/** The installer's own kit, described in a form. */
const props = defineProps<{ kit: Kit; problem: string }>()
const emit = defineEmits<{ take: [kit: Kit]; typed: [kit: Kit]; close: [] }>()

const catalogue = useCatalogue()
const kit = reactive<Kit>(JSON.parse(JSON.stringify(props.kit)) as Kit)
kit.facts = { ...kit.facts }
const facts = kit.facts
const wrong = reactive<Record<string, string>>({})
watch(kit, () => emit('typed', JSON.parse(JSON.stringify(kit)) as Kit))

const modes = (['router', 'access_point', 'mesh_node', 'repeater', 'switch'] as const).map((value) => ({
  title: modeWord[value],
  value,
}))
const widths: Record<string, number[]> = {
  '2.4': [20, 40],
  '5': [20, 40, 80, 160],
  '6': [20, 40, 80, 160, 320],
}
const COMES: { title: string; value: Comes | 'unknown' }[] = [
  { title: 'not known', value: 'unknown' },
  { title: 'has it', value: 'included' },
  { title: 'for a fee', value: 'for_a_fee' },
  { title: 'lacks it', value: 'lacking' },
]
const comes = (what: string) => facts.functions?.find((own) => own.what === what)?.comes ?? 'unknown'
function setComes(what: (typeof WANTS)[number]['value'], how: string) {
  const others = (facts.functions ?? []).filter((own) => own.what !== what)
  facts.functions = how === 'unknown' ? others : [...others, { what, comes: how as Comes }]
}

type Figures =
  | 'lan_ports'
  | 'feeding_ports'
  | 'feeds_w'
  | 'needs_w'
  | 'price'
  | 'fee_a_year'
  | 'warranty_years'
  | 'claimed_area_m2'
const FIGURES: [Figures, string, Quantity][] = [
  ['lan_ports', 'How many of those', 'count'],
  ['feeding_ports', 'Of them feed', 'count'],
  ['feeds_w', 'Feed together, W', 'power'],
  ['needs_w', 'Needs at most, W', 'power'],
  ['price', 'Price of one', 'money'],
  ['fee_a_year', 'Fee a year', 'money'],
  ['warranty_years', 'Warranty, years', 'years'],
  ['claimed_area_m2', 'Claimed area, m²', 'area'],
]
const set = (field: Figures, value: number | null) =>
  Object.assign(facts, { [field]: value ?? (field === 'feeding_ports' ? 0 : null) })
const reader = inject(READER)!
async function take() {
  if (await unread.settled()) emit('take', kit)
}
const packsField = Symbol('packs')
const packs = () => (facts.packs ?? []).map((pack) => `${pack.count}=${pack.price}`).join('; ')
async function setPacks(typed: string) {
  unread.set(packsField, 'reading')
  await readPacks(typed).finally(() => unread.set(packsField, wrong.packs ? 'stuck' : undefined))
}
onBeforeUnmount(() => unread.set(packsField, undefined))
async function readPacks(typed: string) {
  const parts = typed
    .split(';')
    .map((own) => own.trim())
    .filter(Boolean)
    .map((own) => own.split('='))
  wrong.packs = parts.every((own) => own.length === 2) ? '' : 'Write number and price, as in 2=110; 3=150.'
  if (wrong.packs) return
  const asked = parts.flatMap(([count, price]) => [
    { typed: count!, of: 'count' as const },
    { typed: price!, of: 'money' as const },
  ])
  const read = asked.length ? await reader.read(asked) : []
  const bad = read.find((own) => own.value == null)
  wrong.packs = bad?.problem ?? bad?.asked?.message ?? ''
  if (!bad)
    facts.packs = parts.map((_, at) => ({ count: read[2 * at]!.value!, price: read[2 * at + 1]!.value! }))
}
function addRadio() {
  const radio: KitRadio = {
    band: '5',
    generation: 'ax',
    streams: 2,
    max_width_mhz: 80,
    default_channel: 36,
    serves: true,
  }
  kit.radios.push(radio)
}
function bandOf(radio: KitRadio, band: KitRadio['band']) {
  const usual = { '2.4': [20, 1], '5': [80, 36], '6': [160, 37] } as const
  const [max_width_mhz, default_channel] = usual[band]
  Object.assign(radio, { band, max_width_mhz, default_channel })
}
const choice = (values: readonly string[]) => values.map((value) => ({ title: value, value }))
</script>

<template>
  <form class="own" aria-label="My own kit" @submit.prevent="take">
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <div class="grid">
      <v-text-field v-model="kit.name" label="What it is" class="wide" autofocus maxlength="80" />
      <v-select v-model="kit.modes" :items="modes" label="Can be set to" multiple class="wide" />
      <NumberField
        :value="kit.uplink_port_mbps"
        of="speed"
        label="Port to the router, Mb/s"
        @change="kit.uplink_port_mbps = $event"
      />
      <NumberField
        :value="kit.lan_port_mbps"
        of="speed"
        label="Ports to the home, Mb/s"
        @change="kit.lan_port_mbps = $event"
      />
      <NumberField
        v-for="[field, label, quantity] in FIGURES"
        :key="field"
        :value="facts[field]"
        :of="quantity"
        :label="label"
        optional
        @change="set(field, $event)"
        @clear="set(field, null)"
      />
      <v-text-field
        :model-value="packs()"
        label="Packs, as 2=110; 3=150"
        :error-messages="wrong.packs"
        @change="setPacks($event.target.value)"
      />
      <v-text-field
        :model-value="facts.steers_with ?? ''"
        label="Guides phones with (family)"
        maxlength="60"
        @change="facts.steers_with = $event.target.value.trim() || null"
      />
      <v-select
        v-model="facts.weather"
        :items="[
          { title: 'indoors only', value: 'indoors' },
          { title: 'under a roof', value: 'under_roof' },
          { title: 'outdoors', value: 'outdoors' },
        ]"
        label="Stands"
        placeholder="indoors only"
      />
      <v-select v-model="facts.warmth" :items="choice(['cool', 'warm', 'hot'])" label="Gets" clearable />
      <v-select v-model="facts.control" :items="choice(['simple', 'full'])" label="Control" clearable />
      <v-select
        v-model="facts.tells_uplink"
        :items="[
          { title: 'good, fair, poor', value: 'steps' },
          { title: 'signal', value: 'signal' },
          { title: 'signal and link rate', value: 'signal_and_rate' },
        ]"
        label="Tells its uplink by"
        clearable
      />
      <v-checkbox v-model="kit.powered_by_cable" label="fed by its network cable" />
      <v-checkbox v-model="facts.blocks_next_outlet" label="covers the next outlet" />
      <v-checkbox v-model="facts.takes_aerials" label="takes other aerials" />
    </div>
    <fieldset>
      <legend>Radios</legend>
      <div v-for="(radio, index) in kit.radios" :key="index" class="radio">
        <v-select
          :model-value="radio.band"
          :items="choice(['2.4', '5', '6'])"
          label="Band, GHz"
          @update:model-value="bandOf(radio, $event)"
        />
        <v-select v-model="radio.generation" :items="choice(['n', 'ac', 'ax', 'be'])" label="Generation" />
        <v-select v-model="radio.streams" :items="[1, 2, 3, 4, 8]" label="Streams" />
        <v-select v-model="radio.max_width_mhz" :items="widths[radio.band]" label="Widest, MHz" />
        <v-checkbox v-model="radio.serves" label="phones may join" />
        <button type="button" class="small link" @click="kit.radios.splice(index, 1)">take out</button>
      </div>
      <button type="button" class="small link" @click="addRadio">+ radio</button>
    </fieldset>
    <fieldset>
      <legend>What the family may want</legend>
      <div class="grid">
        <v-select
          v-for="want in WANTS"
          :key="want.value"
          :model-value="comes(want.value)"
          :items="COMES"
          :label="want.title"
          @update:model-value="setComes(want.value, $event)"
        />
      </div>
    </fieldset>
    <v-textarea v-model="facts.known_here" label="What it is known to do in this home" rows="2" auto-grow />
    <div class="buttons">
      <v-btn @click="emit('close')">Cancel</v-btn>
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="!kit.name.trim() || !kit.modes.length || Object.values(wrong).some(Boolean) || !catalogue"
        >Keep it</v-btn
      >
    </div>
  </form>
</template>

<style scoped>
.own {
  display: grid;
  gap: 12px;
}

.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 8px 14px;
  align-items: end;
}

.wide {
  grid-column: span 2;
}

fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  padding-top: 6px;
}

legend {
  float: left;
  width: 100%;
  font-size: 0.84rem;
  font-weight: 600;
  margin-bottom: 6px;
}

legend + * {
  clear: both;
}

.radio {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr)) 150px auto;
  gap: 8px;
  align-items: end;
}

.link {
  text-decoration: underline;
}

.buttons {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}

@media (max-width: 900px) {
  .radio {
    grid-template-columns: 1fr 1fr;
  }
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Device, LengthUnit, Setup, Via } from '../../api/types'
import LengthField from '../../shared/LengthField.vue'
import { useCatalogue } from '../../shared/useCatalogue'
import NumberField from '../../shared/NumberField.vue'
import { useHome } from '../bench'
import { useAllKit } from './useAllKit'

type Pair = Extract<Via, { kind: 'power_line' }>

const props = defineProps<{ device: Device; setup: Setup; units: LengthUnit }>()
const emit = defineEmits<{ change: [uplink: NonNullable<Device['uplink']>] }>()

const catalogue = useCatalogue()
const home = useHome()
const allKit = useAllKit()
const uplink = computed(() => props.device.uplink)
const via = computed(() => uplink.value?.via)
const others = computed(() =>
  props.setup.devices
    .filter((own) => own.id !== props.device.id)
    .map((own) => ({ title: own.name, value: own.id })),
)

/** A cable as it lies now, so that another class lies the same way. */
const laid = computed(() =>
  via.value?.kind === 'cable'
    ? via.value
    : ({ kind: 'cable', class: 'cat6', loose: false, riser: null } as const),
)
const risers = computed(() => [
  { title: 'by the stairs', value: null as string | null },
  ...(home.view.value?.drawing.rooms ?? [])
    .filter((room) => !room.outdoors)
    .map((room) => ({ title: `through the floor of ${room.name}`, value: room.room_id as string | null })),
])
const upstream = computed(() => {
  const kit = props.setup.devices.find((own) => own.id === uplink.value?.to)?.kit
  return allKit.value.find((own) => own.key === kit)
})
const portsOf = computed(() => [
  { title: 'the next free one', value: null as number | null },
  ...Array.from({ length: upstream.value?.facts?.lan_ports ?? 4 }, (_, index) => ({
    title: `port ${index + 1}`,
    value: (index + 1) as number | null,
  })),
])

/** Everything that can carry an uplink; a choice stands for what is then sent. */
const ways = computed<{ title: string; value: string; via: Via }[]>(() => [
  ...(catalogue.value?.cables.map((cable) => ({
    title: `cable, ${cable.name}`,
    value: `cable ${cable.class}`,
    via: { ...laid.value, class: cable.class },
  })) ?? []),
  ...props.device.radios.map((radio, index) => ({
    title: `radio ${index + 1}, ${radio.band} GHz${radio.serves ? '' : ', its own'}`,
    value: `radio ${index}`,
    via: { kind: 'radio' as const, radio: index },
  })),
  ...(props.device.radios.length > 1
    ? [{ title: 'whichever radio passes most', value: 'best_radio', via: { kind: 'best_radio' as const } }]
    : []),
  {
    title: 'coax, by a pair of adapters',
    value: 'coax',
    via: { kind: 'coax', length_m: 15, splitters: 1, port_mbps: 2500 },
  },
  {
    title: 'power line, by a pair of adapters',
    value: 'power_line',
    via: {
      kind: 'power_line',
      class: 'sold1000',
      length_m: 15,
      circuit: 'other',
      strips: 0,
      noisy: false,
    },
  },
])
const way = computed(() => {
  const own = via.value
  if (own?.kind === 'cable') return `cable ${own.class}`
  return own?.kind === 'radio' ? `radio ${own.radio}` : (own?.kind ?? '')
})

const classes: { title: string; value: Pair['class'] }[] = [
  { title: 'sold as 200 Mb/s', value: 'sold200' },
  { title: 'sold as 500 Mb/s', value: 'sold500' },
  { title: 'sold as 1000 to 1300 Mb/s', value: 'sold1000' },
  { title: 'sold as 2000 Mb/s', value: 'sold2000' },
]
const circuits: { title: string; value: Pair['circuit'] }[] = [
  { title: 'one circuit', value: 'same' },
  { title: 'two circuits of one board', value: 'other' },
  { title: 'another board or phase', value: 'other_board' },
]
const few = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10]
const ports = [100, 1000, 2500].map((value) => ({ title: `${value} Mb/s`, value }))

function carry(by: Via) {
  if (uplink.value) emit('change', { ...uplink.value, via: by })
}

function choose(value: string) {
  const chosen = ways.value.find((own) => own.value === value)
  if (chosen) carry(chosen.via)
}
</script>

<template>
  <template v-if="uplink">
    <v-select
      :model-value="uplink.to"
      :items="others"
      label="Uplink to"
      @update:model-value="emit('change', { ...uplink, to: $event })"
    />
    <v-select :model-value="way" :items="ways" label="By" @update:model-value="choose" />
    <div v-if="via?.kind === 'cable'" class="pair cable">
      <v-select
        :model-value="uplink.port ?? null"
        :items="portsOf"
        label="At its port"
        @update:model-value="emit('change', { ...uplink, port: $event })"
      />
      <v-select
        :model-value="via.riser ?? null"
        :items="risers"
        label="From storey to storey"
        @update:model-value="carry({ ...via, riser: $event })"
      />
      <v-checkbox
        :model-value="via.loose ?? false"
        label="loose, for a trial"
        @update:model-value="carry({ ...via, loose: !!$event })"
      />
    </div>
    <div v-if="via?.kind === 'coax'" class="pair">
      <LengthField
        :metres="via.length_m"
        label="Coax"
        :units="units"
        @change="carry({ ...via, length_m: $event })"
      />
      <v-select
        :model-value="via.splitters"
        :items="few"
        label="Splitters on the way"
        @update:model-value="carry({ ...via, splitters: $event })"
      />
      <v-select
        :model-value="via.port_mbps"
        :items="ports"
        label="Adapter ports"
        @update:model-value="carry({ ...via, port_mbps: $event })"
      />
    </div>
    <div v-else-if="via?.kind === 'power_line'" class="pair">
      <v-select
        :model-value="via.class"
        :items="classes"
        label="Pair"
        @update:model-value="carry({ ...via, class: $event })"
      />
      <LengthField
        :metres="via.length_m"
        label="Wiring"
        :units="units"
        @change="carry({ ...via, length_m: $event })"
      />
      <v-select
        :model-value="via.circuit"
        :items="circuits"
        label="Outlets on"
        @update:model-value="carry({ ...via, circuit: $event })"
      />
      <v-select
        :model-value="via.strips"
        :items="few"
        label="Power strips"
        @update:model-value="carry({ ...via, strips: $event })"
      />
      <v-checkbox
        :model-value="via.noisy"
        label="noisy appliance there"
        @update:model-value="carry({ ...via, noisy: !!$event })"
      />
      <NumberField
        :value="via.reported_mbps"
        of="speed"
        label="Link rate it reports, Mb/s"
        optional
        @change="carry({ ...via, reported_mbps: $event })"
        @clear="carry({ ...via, reported_mbps: null })"
      />
    </div>
  </template>
</template>

<style scoped>
.pair {
  grid-column: 1 / -1;
  grid-row: 2;
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 8px;
  align-items: center;
}

.pair.cable {
  grid-template-columns: repeat(3, minmax(0, 1fr));
}

@media (max-width: 900px) {
  .pair {
    grid-template-columns: 1fr 1fr;
    grid-row: auto;
  }
}
</style>

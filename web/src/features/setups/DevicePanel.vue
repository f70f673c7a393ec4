<script setup lang="ts">
import { computed, ref } from 'vue'

import type {
  Caution,
  Device,
  DrawnHop,
  Enclosure,
  Finding,
  Firmware,
  FirmwareUpdates,
  LengthUnit,
  Mode,
  Setup,
} from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import HoursField from '../../shared/HoursField.vue'
import LengthField from '../../shared/LengthField.vue'
import { length, modeWord, speed } from '../../shared/words'
import { PictureStrip } from '../bench'
import AerialFields from './AerialFields.vue'
import FindingList from './FindingList.vue'
import UplinkFields from './UplinkFields.vue'
import { useAllKit } from './useAllKit'

const props = defineProps<{
  device: Device
  setup: Setup
  region: string
  units: LengthUnit
  hops: DrawnHop[]
  cautions: Caution[]
  findings: Finding[]
}>()
const emit = defineEmits<{
  change: [device: Device]
  remove: [id: string]
  mend: [finding: Finding, copy: boolean]
  aside: [finding: Finding, because: string | undefined]
}>()

const catalogue = useCatalogue()
const allKit = useAllKit()
const kit = computed(() => allKit.value.find((own) => own.key === props.device.kit))
const modes = computed(
  () => kit.value?.modes.map((mode) => ({ title: modeWord[mode], value: mode as Mode })) ?? [],
)
const legal = computed(
  () => catalogue.value?.regions.find((own) => own.code === props.region)?.channels ?? [],
)
const hop = computed(() => props.hops.find((own) => own.device === props.device.id))
const uplinkRadio = computed(() =>
  props.device.uplink?.via.kind === 'radio' ? props.device.uplink.via.radio : undefined,
)

function widths(index: number) {
  const own = kit.value?.radios[index]
  if (!own) return []
  return legal.value
    .filter((set) => set.band === own.band && set.width_mhz <= own.max_width_mhz)
    .map((set) => ({ title: `${set.width_mhz} MHz`, value: set.width_mhz }))
}

function channels(index: number) {
  const radio = props.device.radios[index]
  const set = legal.value.find((own) => own.band === radio?.band && own.width_mhz === radio?.width_mhz)
  return (
    set?.channels.map((channel) => ({
      title: set.radar.includes(channel) ? `${channel} (listens for radar)` : `${channel}`,
      value: channel,
    })) ?? []
  )
}

/** What is allowed, and what is less: kit offers steps of about 3 dB (common practice). */
const POWERS = [0, 3, 6, 9, 12, 15, 18].map((value) => ({
  title: value === 0 ? 'full' : `${value} dB less`,
  value,
}))
const HAND_OVERS = [
  { title: 'by the phone', value: null as number | null },
  ...[-60, -65, -70, -75, -80, -85].map((value) => ({
    title: `under ${value} dBm`,
    value: value as number | null,
  })),
]
const enclosures: { title: string; value: Enclosure }[] = [
  { title: 'in the open', value: 'open' },
  { title: 'in a cupboard', value: 'cupboard' },
  { title: 'in a metal cabinet', value: 'metal_cabinet' },
]

function change(part: Partial<Device>) {
  emit('change', { ...props.device, ...part })
}

/** Firmware is noted with its version, or with how a newer one gets in; without either there is nothing to note. */
function firmware(part: Partial<Firmware>) {
  const now = { version: '', from: null, ...props.device.firmware, ...part }
  change({ firmware: now.version.trim() || now.updates ? now : null })
}

const updates: { title: string; value: FirmwareUpdates['by'] | '' }[] = [
  { title: 'not looked at', value: '' },
  { title: 'by its button', value: 'button' },
  { title: 'by file', value: 'file' },
  { title: 'by itself', value: 'schedule' },
]
/** Hours in which commonly nobody notices. */
const QUIET = { from: 3, to: 5 }

function updated(by: string) {
  if (by === 'schedule') firmware({ updates: { by, hours: QUIET } })
  else firmware({ updates: by === 'file' || by === 'button' ? { by } : null })
}

const typed = (event: Event) => (event.target as HTMLInputElement).value.trim()
const handedOut = computed(() => {
  const range = props.device.hands_out
  return range ? `${range.from} to ${range.to}` : ''
})
const rangeFault = ref('')

/** What is not understood stays as typed, with what is missing. */
function handsOut(text: string) {
  const parts = /^(\S+?)\s*(?:\bto\b|-|–)\s*(\S+)$/.exec(text)
  rangeFault.value = text && !parts ? 'The first and the last: 192.168.1.100 to 192.168.1.199' : ''
  if (!text || parts) change({ hands_out: parts ? { from: parts[1]!, to: parts[2]! } : null })
}

function changeRadio(index: number, part: Partial<Device['radios'][number]>) {
  const radios = props.device.radios.map((own, at) => (at === index ? { ...own, ...part } : own))
  const own = radios[index]
  const set = legal.value.find((one) => one.band === own?.band && one.width_mhz === own?.width_mhz)
  // A wider channel may not exist at the old place: then the first legal one.
  if (own && set && !set.channels.includes(own.channel)) own.channel = set.channels[0] ?? own.channel
  change({ radios })
}
</script>

<template>
  <section :aria-label="`Settings of ${device.name}`">
    <p v-if="hop" class="small">
      Backhaul: <b>{{ hop.down_mbps == null ? 'no link' : `${speed(hop.down_mbps)} Mb/s` }}</b>,
      {{ hop.detail }}, {{ length(hop.distance_m, units) }} apart.
    </p>
    <div class="row">
      <v-text-field
        :model-value="device.name"
        label="Name"
        @change="change({ name: ($event.target as HTMLInputElement).value })"
      />
      <v-select
        :model-value="device.mode"
        :items="modes"
        label="Mode"
        @update:model-value="change({ mode: $event })"
      />
      <UplinkFields
        v-if="device.uplink"
        :device="device"
        :setup="setup"
        :units="units"
        @change="change({ uplink: $event })"
      />
      <p v-else class="small quiet">At the line: it has no uplink.</p>
      <v-btn size="small" variant="text" color="error" @click="emit('remove', device.id)">Take off</v-btn>
    </div>
    <div v-for="(radio, index) in device.radios" :key="index" class="row radio">
      <div class="of-radio">
        <b
          >{{ radio.band }} GHz
          <small class="quiet"
            >{{ kit?.radios[index]?.generation }}, {{ kit?.radios[index]?.streams }} streams</small
          ></b
        >
        <v-checkbox
          :model-value="radio.on"
          label="on"
          @update:model-value="changeRadio(index, { on: !!$event })"
        />
        <v-checkbox
          :model-value="radio.serves"
          label="serves phones"
          @update:model-value="changeRadio(index, { serves: !!$event })"
        />
      </div>
      <p v-if="uplinkRadio === index" class="small quiet follows">
        carries the uplink: works on the channel of the device upstream
      </p>
      <template v-else>
        <v-select
          :model-value="radio.channel"
          :items="channels(index)"
          :label="`Channel, ${radio.band} GHz`"
          @update:model-value="changeRadio(index, { channel: $event })"
        />
        <v-select
          :model-value="radio.width_mhz"
          :items="widths(index)"
          :label="`Width, ${radio.band} GHz`"
          @update:model-value="changeRadio(index, { width_mhz: $event })"
        />
      </template>
      <v-select
        :model-value="radio.turned_down_db ?? 0"
        :items="POWERS"
        :label="`Power, ${radio.band} GHz`"
        @update:model-value="changeRadio(index, { turned_down_db: $event })"
      />
      <v-select
        :model-value="radio.hand_over_dbm ?? null"
        :items="HAND_OVERS"
        :label="`Hands over, ${radio.band} GHz`"
        @update:model-value="changeRadio(index, { hand_over_dbm: $event })"
      />
    </div>
    <div class="row stands">
      <v-select
        :model-value="device.enclosure ?? 'open'"
        :items="enclosures"
        label="Stands"
        @update:model-value="change({ enclosure: $event })"
      />
      <AerialFields :aerial="device.aerial ?? { kind: 'built_in' }" @change="change({ aerial: $event })" />
      <LengthField
        :metres="device.at.height_m"
        label="Height above the floor"
        :units="units"
        @change="change({ at: { ...device.at, height_m: $event } })"
      />
      <v-checkbox
        :model-value="device.there_already ?? false"
        label="there already: not to buy"
        @update:model-value="change({ there_already: !!$event })"
      />
      <v-checkbox
        v-if="!device.uplink"
        :model-value="device.managed_queue ?? false"
        label="keeps calls quick while the line is full"
        @update:model-value="change({ managed_queue: !!$event })"
      />
      <v-text-field
        :model-value="device.network_name ?? ''"
        label="Own network name"
        placeholder="the home’s"
        maxlength="32"
        @update:model-value="change({ network_name: $event })"
      />
      <v-text-field
        :model-value="device.guest_network ?? ''"
        label="Guest network"
        placeholder="none here"
        maxlength="32"
        @update:model-value="change({ guest_network: $event })"
      />
      <v-text-field
        :model-value="device.firmware?.version ?? ''"
        label="Firmware"
        maxlength="60"
        @update:model-value="firmware({ version: $event })"
      />
      <v-text-field
        v-if="device.firmware?.version"
        :model-value="device.firmware.from ?? ''"
        label="Firmware of"
        type="date"
        @update:model-value="firmware({ from: $event || null })"
      />
      <v-select
        :model-value="device.firmware?.updates?.by ?? ''"
        :items="updates"
        label="Newer firmware comes"
        @update:model-value="updated($event)"
      />
      <HoursField
        v-if="device.firmware?.updates?.by === 'schedule'"
        :model-value="device.firmware.updates.hours"
        label="At hours"
        name="Hours of its updates"
        @update:model-value="firmware({ updates: { by: 'schedule', hours: $event ?? QUIET } })"
      />
      <v-text-field
        :model-value="device.settings_address ?? ''"
        label="Its settings are at"
        maxlength="40"
        placeholder="192.168.1.2"
        @change="change({ settings_address: typed($event) })"
      />
      <v-text-field
        :model-value="handedOut"
        label="Hands out addresses"
        maxlength="40"
        placeholder="none, or 192.168.1.100 to 192.168.1.199"
        :error-messages="rangeFault"
        @change="handsOut(typed($event))"
      />
      <v-text-field
        :model-value="device.hardware_address ?? ''"
        label="Hardware address"
        maxlength="17"
        placeholder="02:1a:9f:00:3c:55"
        @change="
          change({
            hardware_address:
              ($event.target as HTMLInputElement).value.trim().toLowerCase().replace(/-/g, ':') || null,
          })
        "
      />
    </div>
    <FindingList
      v-if="findings.length || cautions.length"
      :findings="findings"
      :cautions="cautions"
      :empty="false"
      @mend="(own, copy) => emit('mend', own, copy)"
      @aside="(own, because) => emit('aside', own, because)"
    />
    <p class="small quiet">
      {{ kit?.name }}.
      {{
        kit?.powered_by_cable
          ? 'Its cable feeds it: it needs an injector or a port that feeds it, and no outlet. Fix it'
          : 'Plug it straight into a wall outlet,'
      }}
      in the open, about 20 cm from people; it runs warm. Switch it off before changing aerials; pull cable by
      local codes.
    </p>
    <PictureStrip
      :names="new Map([[device.id, device.name]])"
      :adding="{ device: device.id }"
      :label="`Pictures of ${device.name}`"
    />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}

.row {
  display: grid;
  grid-template-columns: 1fr 0.9fr 1fr 1.6fr auto;
  gap: 8px;
  align-items: center;
}

.row.radio {
  grid-template-columns: repeat(4, minmax(0, 1fr));
}

.of-radio {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 0 20px;
  flex-wrap: wrap;
}

.row.stands {
  grid-template-columns: repeat(auto-fit, minmax(120px, 1fr));
}

.follows {
  grid-column: span 2;
}

p {
  margin: 0;
}

b small {
  font-weight: 400;
}

@media (max-width: 1100px) {
  .row {
    grid-template-columns: 1fr 1fr;
  }
}

@media (max-width: 900px) {
  .row,
  .row.radio {
    grid-template-columns: 1fr 1fr;
  }
}
</style>

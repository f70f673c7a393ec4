<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api } from '../../api/client'
import type { Device, Position, Setup, Steering } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { useBench, useHome } from '../bench'
import CautionList from './CautionList.vue'
import DevicePanel from './DevicePanel.vue'
import KitTray from './KitTray.vue'
import LampMap from './LampMap.vue'

const home = useHome()
const bench = useBench()
const catalogue = useCatalogue()
const map = ref<InstanceType<typeof LampMap>>()

const view = computed(() => home.view.value)
const setup = computed(() => view.value?.home.setups.find((own) => own.id === bench.setupId))
const device = computed(() => setup.value?.devices.find((own) => own.id === bench.deviceId))
const levels = computed(() => view.value?.home.house.levels ?? [])
const hasRooms = computed(() => (view.value?.drawing.rooms.length ?? 0) > 0)
const clients = computed(
  () => catalogue.value?.clients.map((own) => ({ title: own.name, value: own.key })) ?? [],
)

const cautions = computed(() => bench.light?.cautions ?? [])
const steerings: { title: string; value: Steering }[] = [
  { title: 'one name, guided', value: 'guided' },
  { title: 'one name, not guided', value: 'one_name' },
  { title: 'a name for each device', value: 'own_names' },
]

const path = (id: string) => ({ params: { path: { home: home.id, setup: id } } })

async function save(changed: Setup) {
  await home.change(api.PUT('/api/homes/{home}/setups/{setup}', { ...path(changed.id), body: changed }))
}

/** Stores a device as changed; a drag or nudge shows at once and is stored when it rests. */
async function change(changed: Device) {
  const own = setup.value
  if (!own) return
  await save({ ...own, devices: own.devices.map((other) => (other.id === changed.id ? changed : other)) })
}

async function settle() {
  const moved = bench.moved
  const own = setup.value?.devices.find((other) => other.id === moved?.device)
  if (moved && own) await change({ ...own, at: moved.at })
  if (bench.moved === moved) bench.moved = undefined
}
const settleSoon = useDebounceFn(settle, 350)

function nudge(at: Position, id: string) {
  bench.moved = { device: id, at }
  void settleSoon()
}

async function place(kit: string, at: Position | undefined) {
  const own = setup.value
  if (!own || !at) return
  const before = new Set(own.devices.map((other) => other.id))
  const done = await home.change(
    api.POST('/api/homes/{home}/setups/{setup}/devices', { ...path(own.id), body: { kit, at } }),
  )
  if (done) bench.deviceId = setup.value?.devices.find((other) => !before.has(other.id))?.id
}

async function remove(id: string) {
  const own = setup.value
  if (!own) return
  const params = { path: { home: home.id, setup: own.id, device: id } }
  await home.change(api.DELETE('/api/homes/{home}/setups/{setup}/devices/{device}', { params }))
}

async function rename(name: string) {
  if (setup.value) await save({ ...setup.value, name: name.trim() })
}

async function steer(steering: Steering) {
  if (setup.value) await save({ ...setup.value, steering })
}

async function removeSetup() {
  if (setup.value) await home.change(api.DELETE('/api/homes/{home}/setups/{setup}', path(setup.value.id)))
}
</script>

<template>
  <div class="setups">
    <p v-if="!hasRooms" class="page quiet">
      The house has no rooms yet: type them under
      <router-link :to="{ name: 'house' }">House</router-link>, then place devices here.
    </p>
    <p v-else-if="!setup" class="page quiet">
      No setup yet. Make the first with “+” at the top: usually “as found”, with the router that is there now.
    </p>
    <template v-else-if="view">
      <div class="controls">
        <div class="levels" role="group" aria-label="Levels">
          <button
            v-for="level in levels"
            :key="level.id"
            type="button"
            :aria-pressed="level.id === bench.levelId"
            @click="bench.levelId = level.id"
          >
            {{ level.name }}
          </button>
        </div>
        <v-select v-model="bench.client" :items="clients" label="Seen by" class="client" hide-details />
        <v-select
          v-model="bench.situation"
          :items="[
            { title: 'nothing else busy', value: 'alone' },
            { title: 'busy evening', value: 'busy_evening' },
          ]"
          label="Household"
          class="short"
          hide-details
        />
        <v-select
          v-model="bench.doors"
          :items="[
            { title: 'as left', value: 'as_left' },
            { title: 'all open', value: 'open' },
            { title: 'all shut', value: 'shut' },
          ]"
          label="Doors"
          class="short"
          hide-details
        />
        <v-select
          v-model="bench.kind"
          :items="[
            { title: 'internet', value: 'internet' },
            { title: 'local', value: 'local' },
          ]"
          label="Test to"
          class="short"
          hide-details
        />
      </div>
      <LampMap ref="map" :view="view" :setup="setup" @drop="settle" @nudge="nudge" @remove="remove" />
      <KitTray
        :empty="setup.devices.length === 0"
        @place="(kit, spot) => place(kit, map?.positionAt(spot))"
      />
      <DevicePanel
        v-if="device"
        :key="device.id"
        :device="device"
        :setup="setup"
        :region="view.home.region"
        :units="view.home.units"
        :hops="bench.light?.hops ?? []"
        :cautions="cautions.filter((own) => own.device === device?.id)"
        @change="change"
        @remove="remove"
      />
      <div v-else class="hint small quiet">
        <span>Choose a device for its settings, a room for what limits it.</span>
        <v-text-field
          :key="setup.id"
          :model-value="setup.name"
          :label="`Name of setup ${setup.letter}`"
          class="name"
          @change="rename(($event.target as HTMLInputElement).value)"
        />
        <v-select
          v-if="setup.devices.length > 1"
          :model-value="setup.steering ?? 'guided'"
          :items="steerings"
          label="Phones find a device by"
          class="name"
          @update:model-value="steer"
        />
        <button type="button" @click="removeSetup">Delete setup {{ setup.letter }}</button>
      </div>
      <CautionList v-if="!device" :cautions="cautions" class="cautions" />
    </template>
  </div>
</template>

<style scoped>
.setups {
  display: flex;
  flex-direction: column;
  min-height: 100%;
}

.controls {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 8px 12px;
  background: var(--night);
}

.levels {
  display: flex;
  border: 1px solid #5a6079;
  flex-shrink: 0;
}

.levels button {
  padding: 5px 12px;
  color: var(--paper);
  font-size: 0.88rem;
}

.levels button[aria-pressed='true'] {
  background: var(--cream);
  color: var(--night);
}

.controls .v-input {
  color: var(--paper);
  min-width: 0;
}

.controls :deep(.v-field__outline) {
  --v-field-border-opacity: 0.5;
}

.controls :deep(.v-field-label.v-label) {
  color: #c9cbd6;
}

.controls :deep(.v-field) {
  font-size: 0.85rem;
}

.controls :deep(.v-field__input) {
  padding-inline: 10px 0;
}

.client {
  flex: 1.5;
}

.short {
  flex: 1;
}

.hint {
  padding: 8px 14px;
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
}

.hint .name {
  flex: 0 1 220px;
  color: var(--ink);
}

.hint button {
  text-decoration: underline;
  white-space: nowrap;
}

.cautions {
  padding: 0 14px 10px;
}

@media (max-width: 900px) {
  .controls {
    flex-wrap: wrap;
  }
}
</style>

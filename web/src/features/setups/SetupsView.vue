<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'

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

const tested = computed(() => view.value?.tested.find((own) => own.setup_id === setup.value?.id))
const going = reactive({ open: false, name: '', busy: false })
const doomed = ref('')

async function save(changed: Setup) {
  await home.change((header) =>
    api.PUT('/api/homes/{home}/setups/{setup}', {
      params: { path: { home: home.id, setup: changed.id }, header },
      body: changed,
    }),
  )
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
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/devices', {
      params: { path: { home: home.id, setup: own.id }, header },
      body: { kit, at },
    }),
  )
  if (done) bench.deviceId = setup.value?.devices.find((other) => !before.has(other.id))?.id
}

async function remove(id: string) {
  const own = setup.value
  if (!own) return
  await home.change((header) =>
    api.DELETE('/api/homes/{home}/setups/{setup}/devices/{device}', {
      params: { path: { home: home.id, setup: own.id, device: id }, header },
    }),
  )
}

async function rename(name: string) {
  if (setup.value) await save({ ...setup.value, name: name.trim() })
}

async function steer(steering: Steering) {
  if (setup.value) await save({ ...setup.value, steering })
}

/** Deletes the setup; when it holds readings, only after the question that tells what is lost. */
async function removeSetup(withReadings: boolean) {
  const own = setup.value
  if (!own) return
  if (tested.value && !withReadings) {
    const { rounds, runs } = tested.value
    const many = (count: number, what: string) => `${count} ${what}${count === 1 ? '' : 's'}`
    doomed.value = `It holds ${many(rounds, 'round')} with ${many(runs, 'run')}; they go with it.`
    return
  }
  doomed.value = ''
  await home.change((header) =>
    api.DELETE('/api/homes/{home}/setups/{setup}', {
      params: {
        path: { home: home.id, setup: own.id },
        query: { with_readings: withReadings },
        header,
      },
    }),
  )
}

async function goOn() {
  const own = setup.value
  if (!own || going.busy) return
  going.busy = true
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/go-on-in-a-copy', {
      params: { path: { home: home.id, setup: own.id }, header },
      body: { name: going.name },
    }),
  )
  going.busy = false
  if (!done) return
  going.open = false
  bench.setupId = view.value?.home.setups.at(-1)?.id
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
      <p v-if="tested" class="tested small" role="status" aria-label="Tested">
        <span>
          Setup {{ setup.letter }} holds {{ tested.runs }} {{ tested.made_up ? 'made-up' : 'measured' }} run{{
            tested.runs === 1 ? '' : 's'
          }}<template v-if="tested.changed_since.length"
            >, <b>taken before {{ tested.changed_since.join(', before ') }}</b></template
          ><template v-else>: changing it makes them readings of something else</template>.
        </span>
        <button type="button" @click="Object.assign(going, { open: true, name: '' })">Go on in a copy</button>
      </p>
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
        <button type="button" @click="removeSetup(false)">Delete setup {{ setup.letter }}</button>
      </div>
      <CautionList v-if="!device" :cautions="cautions" class="cautions" />
    </template>

    <v-dialog v-model="going.open" max-width="440">
      <v-card title="Go on in a copy">
        <v-card-text>
          <form class="asking" @submit.prevent="goOn">
            <p>
              The copy gets the devices as they are now. Setup {{ setup?.letter }} is put back to what was
              tested, and its readings stay with it.
            </p>
            <v-text-field v-model="going.name" label="What is different in the copy" autofocus />
            <div class="buttons">
              <v-btn @click="going.open = false">Cancel</v-btn>
              <v-btn type="submit" variant="flat" color="primary" :disabled="!going.name.trim() || going.busy"
                >Make the copy</v-btn
              >
            </div>
          </form>
        </v-card-text>
      </v-card>
    </v-dialog>
    <v-dialog :model-value="!!doomed" max-width="440" @update:model-value="doomed = ''">
      <v-card :title="`Delete setup ${setup?.letter}?`">
        <v-card-text>
          {{ doomed }} Undo brings all of it back.
          <div class="buttons">
            <v-btn @click="doomed = ''">Keep it</v-btn>
            <v-btn variant="flat" color="error" @click="removeSetup(true)">Delete it</v-btn>
          </div>
        </v-card-text>
      </v-card>
    </v-dialog>
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

.tested {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  margin: 0;
  padding: 6px 14px;
  background: #f4ead0;
}

.tested button {
  text-decoration: underline;
  white-space: nowrap;
}

.asking {
  display: grid;
  gap: 10px;
}

.asking p {
  margin: 0;
}

.buttons {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  margin-top: 12px;
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

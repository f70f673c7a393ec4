<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'

import { api } from '../../api/client'
import type { Device, HomeView, Position, Setup, Steering } from '../../api/types'
import { useBench, useHome, useHomeDraft } from '../bench'
import CautionList from './CautionList.vue'
import DevicePanel from './DevicePanel.vue'
import KitTray from './KitTray.vue'
import LampMap from './LampMap.vue'

/** The setup this panel is of, for as long as it is open. */
const { view, id } = defineProps<{ view: HomeView; id: string }>()

const home = useHome()
const bench = useBench()
const map = ref<InstanceType<typeof LampMap>>()

const draft = useHomeDraft<Setup | undefined>(home, {
  name: `setup ${id}`,
  part: (now) => now.home.setups.find((own) => own.id === id),
  send: (edit, header) =>
    api.PUT('/api/homes/{home}/setups/{setup}', {
      params: { path: { home: home.id, setup: id }, header },
      body: edit as Setup,
    }),
})
const setup = computed(() => draft.edit.value)
const device = computed(() => setup.value?.devices.find((own) => own.id === bench.deviceId))
const cautions = computed(() => bench.light?.cautions ?? [])
const steerings: { title: string; value: Steering }[] = [
  { title: 'one name, guided', value: 'guided' },
  { title: 'one name, not guided', value: 'one_name' },
  { title: 'a name for each device', value: 'own_names' },
]

const tested = computed(() => view.tested.find((own) => own.setup_id === id))
const going = reactive({ open: false, name: '', busy: false })
const doomed = ref('')

function change(changed: Device) {
  const devices = setup.value?.devices
  devices?.splice(0, devices.length, ...devices.map((own) => (own.id === changed.id ? changed : own)))
}

function moveTo(at: Position, of: string) {
  const own = setup.value?.devices.find((other) => other.id === of)
  if (own) change({ ...own, at })
}

/** The map is lit for a device in motion until what is stored says the same. */
async function settle() {
  const moved = bench.moved
  await draft.flush()
  if (bench.moved === moved) bench.moved = undefined
}
const settleSoon = useDebounceFn(settle, 350)

function drop() {
  if (bench.moved) moveTo(bench.moved.at, bench.moved.device)
  void settle()
}

function nudge(at: Position, of: string) {
  bench.moved = { device: of, at }
  moveTo(at, of)
  void settleSoon()
}

async function place(kit: string, at: Position | undefined) {
  const own = setup.value
  if (!own || !at || !(await draft.flush())) return
  const before = new Set(own.devices.map((other) => other.id))
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/devices', {
      params: { path: { home: home.id, setup: id }, header },
      body: { kit, at },
    }),
  )
  if (done) bench.deviceId = setup.value?.devices.find((other) => !before.has(other.id))?.id
}

async function remove(of: string) {
  if (!(await draft.flush())) return
  await home.change((header) =>
    api.DELETE('/api/homes/{home}/setups/{setup}/devices/{device}', {
      params: { path: { home: home.id, setup: id, device: of }, header },
    }),
  )
}

/** Deletes the setup; when it holds readings, only after the question that tells what is lost. */
async function removeSetup(withReadings: boolean) {
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
        path: { home: home.id, setup: id },
        query: { with_readings: withReadings },
        header,
      },
    }),
  )
}

async function goOn() {
  if (going.busy || !(await draft.flush())) return
  going.busy = true
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/go-on-in-a-copy', {
      params: { path: { home: home.id, setup: id }, header },
      body: { name: going.name },
    }),
  )
  going.busy = false
  if (!done) return
  going.open = false
  bench.setupId = home.view.value?.home.setups.at(-1)?.id
}
</script>

<template>
  <div v-if="setup" class="panel">
    <p v-if="draft.state.value.startsWith('Not saved')" class="tested small" role="status">
      {{ draft.state.value }}
    </p>
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
    <LampMap ref="map" :view="view" :setup="setup" @drop="drop" @nudge="nudge" @remove="remove" />
    <KitTray :empty="setup.devices.length === 0" @place="(kit, spot) => place(kit, map?.positionAt(spot))" />
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
        @change="setup.name = ($event.target as HTMLInputElement).value.trim()"
      />
      <v-select
        v-if="setup.devices.length > 1"
        :model-value="setup.steering ?? 'guided'"
        :items="steerings"
        label="Phones find a device by"
        class="name"
        @update:model-value="setup.steering = $event"
      />
      <button type="button" @click="removeSetup(false)">Delete setup {{ setup.letter }}</button>
    </div>
    <CautionList v-if="!device" :cautions="cautions" class="cautions" />
    <v-dialog v-model="going.open" aria-label="Go on in a copy" max-width="440">
      <v-card title="Go on in a copy">
        <v-card-text>
          <form class="asking" @submit.prevent="goOn">
            <p>
              The copy gets the devices as they are now. Setup {{ setup.letter }} is put back to what was
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
    <v-dialog
      :model-value="!!doomed"
      aria-label="Delete the setup"
      max-width="440"
      @update:model-value="doomed = ''"
    >
      <v-card :title="`Delete setup ${setup.letter}?`">
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
.panel {
  display: contents;
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
</style>

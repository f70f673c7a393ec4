<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'

import { api } from '../../api/client'
import type { Device, Finding, HomeView, Position, Setup } from '../../api/types'
import { CalibrationPanel, ChainPanel, type Dock, useBench, useHome, useHomeDraft } from '../bench'
import DevicePanel from './DevicePanel.vue'
import FindingList from './FindingList.vue'
import HouseStage from './HouseStage.vue'
import EveningPanel from './EveningPanel.vue'
import KitTray from './KitTray.vue'
import PartsPanel from './PartsPanel.vue'
import SeriesPanel from './SeriesPanel.vue'
import SetupFields from './SetupFields.vue'
import { useFindings } from './useFindings'
import WalkPanel from './WalkPanel.vue'
import ZonesPanel from './ZonesPanel.vue'

/** The setup this panel is of, for as long as it is open. */
const { view, id } = defineProps<{ view: HomeView; id: string }>()

const home = useHome()
const bench = useBench()
const map = ref<InstanceType<typeof HouseStage>>()
const findings = useFindings()

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
const standing = computed(() => findings.value?.filter((own) => own.put_aside == null))
const dearest = computed(() => standing.value?.[0])
/** The dock shows what was chosen last; with nothing chosen, what was found. */
const tabs = computed<{ dock: Dock; title: string }[]>(() => [
  { dock: 'findings', title: `Findings${standing.value ? ` ${standing.value.length}` : ''}` },
  ...(bench.roomId ? [{ dock: 'limits' as const, title: 'What limits it' }] : []),
  ...(device.value ? [{ dock: 'device' as const, title: device.value.name }] : []),
  { dock: 'zones', title: 'Dead zones' },
  { dock: 'parts', title: 'Parts' },
  { dock: 'evening', title: 'Busy evening' },
  ...((setup.value?.devices.length ?? 0) > 1 ? [{ dock: 'walk' as const, title: 'Hand-over' }] : []),
  { dock: 'learnt', title: 'Learnt' },
  ...(setup.value?.series ? [{ dock: 'series' as const, title: 'Series' }] : []),
  { dock: 'setup', title: `Setup ${setup.value?.letter}` },
])
watch(
  () => bench.deviceId,
  (now) => {
    if (now) Object.assign(bench, { dock: 'device', dockUp: true })
  },
)
watch(
  () => bench.roomId,
  (now) => {
    if (now && !bench.deviceId) Object.assign(bench, { dock: 'limits', dockUp: true })
  },
)
const shownTab = computed(() => (tabs.value.some((own) => own.dock === bench.dock) ? bench.dock : 'findings'))

function open(dock: Dock) {
  bench.dockUp = true
  bench.dock = dock
}

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

function turn(of: string, towards: number) {
  const own = setup.value?.devices.find((other) => other.id === of)
  if (own?.aerial && own.aerial.kind !== 'built_in') change({ ...own, aerial: { ...own.aerial, towards } })
}

function changeSetup(part: Partial<Setup>) {
  if (setup.value) Object.assign(setup.value, part)
}

/** Does what a finding proposes: to the setup itself, or to a copy of it. */
async function mend({ rule, device_id, fix }: Finding, copy: boolean) {
  if (!(await draft.flush())) return
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/mend', {
      params: { path: { home: home.id, setup: id }, header },
      body: { ask: bench.ask, rule, device_id, copy_named: copy ? fix : null },
    }),
  )
  if (done && copy) bench.setupId = home.view.value?.home.setups.at(-1)?.id
}

/** Puts a finding aside with a reason, or takes it up again. */
function aside({ rule, device_id }: Finding, because: string | undefined) {
  const others = (setup.value?.put_aside ?? []).filter(
    (own) => own.rule !== rule || (own.device_id ?? null) !== (device_id ?? null),
  )
  changeSetup({ put_aside: because ? [...others, { rule, device_id, because }] : others })
}

/** Makes the setups that a kit is usually put through. */
async function series(kit: string) {
  if (!(await draft.flush())) return
  const known = new Set(view.home.setups.map((own) => own.id))
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/usual-series', {
      params: { path: { home: home.id, setup: id }, header },
      body: { ask: bench.ask, kit },
    }),
  )
  if (!done) return
  bench.kitOut = false
  Object.assign(bench, { dock: 'series', dockUp: true })
  bench.setupId = home.view.value?.home.setups.find((own) => !known.has(own.id))?.id
}

const placeInOrder = computed(() => view.home.setups.findIndex((own) => own.id === id))
async function move(by: number) {
  if (!(await draft.flush())) return
  const order = view.home.setups.map((own) => own.id)
  order.splice(placeInOrder.value + by, 0, ...order.splice(placeInOrder.value, 1))
  await home.change((header) =>
    api.PUT('/api/homes/{home}/setup-order', {
      params: { path: { home: home.id }, header },
      body: { setup_ids: order },
    }),
  )
}

async function force(inForce: boolean) {
  await home.change((header) =>
    api.PUT('/api/homes/{home}/in-force', {
      params: { path: { home: home.id }, header },
      body: { setup_id: inForce ? id : null },
    }),
  )
}

/** A cable in place of what carries a device's uplink now. */
function cable(of: string) {
  const own = setup.value?.devices.find((other) => other.id === of)
  if (own?.uplink)
    change({
      ...own,
      uplink: { to: own.uplink.to, via: { kind: 'cable', class: 'cat6', loose: false, riser: null } },
    })
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

/** Places a device where it was let go over the map, else in the chosen room or where such a device usually stands. */
async function place(kit: string, pointer: { clientX: number; clientY: number } | undefined) {
  const own = setup.value
  const at = pointer && map.value?.placeUnder(pointer)
  if (!own || (pointer && !at) || !(await draft.flush())) return
  const before = new Set(own.devices.map((other) => other.id))
  const done = await home.change((header) =>
    api.POST('/api/homes/{home}/setups/{setup}/devices', {
      params: { path: { home: home.id, setup: id }, header },
      body: { kit, at, room_id: at ? undefined : bench.roomId },
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
    <div class="stage">
      <HouseStage
        ref="map"
        :view="view"
        :setup="setup"
        @drop="drop"
        @nudge="nudge"
        @remove="remove"
        @turn="turn"
      >
        <template #spare>
          <p v-if="dearest" class="dearest">
            <b>{{ dearest.what }}</b> {{ dearest.why }}
            <button v-if="dearest.fix" type="button" @click="mend(dearest, false)">{{ dearest.fix }}</button>
            <template v-if="dearest.gain">: {{ dearest.gain }}.</template>
          </p>
        </template>
      </HouseStage>
      <KitTray
        v-if="bench.kitOut || setup.devices.length === 0"
        :empty="setup.devices.length === 0"
        :units="view.home.units"
        @series="series"
        @place="place"
        @close="bench.kitOut = false"
      />
      <button v-else id="kit" type="button" class="pull" @click="bench.kitOut = true">
        + kit <kbd>a</kbd>
      </button>
    </div>
    <div class="dock" :class="{ up: bench.dockUp }">
      <div class="tabs">
        <div role="tablist" aria-label="The dock">
          <button
            v-for="own in tabs"
            :key="own.dock"
            type="button"
            role="tab"
            :aria-selected="own.dock === shownTab"
            @click="open(own.dock)"
          >
            {{ own.title }}
          </button>
        </div>
        <span class="small quiet state" role="status">{{ draft.state.value }}</span>
        <button
          v-if="tested"
          type="button"
          class="going"
          :title="`Setup ${setup.letter} holds readings: changing it makes them readings of something else.`"
          @click="Object.assign(going, { open: true, name: '' })"
        >
          Go on in a copy
        </button>
        <button type="button" :aria-expanded="bench.dockUp" @click="bench.dockUp = !bench.dockUp">
          {{ bench.dockUp ? 'put away' : 'pull up' }} <kbd>d</kbd>
        </button>
      </div>
      <div v-if="bench.dockUp" class="inside">
        <FindingList
          v-if="shownTab === 'findings'"
          :findings="findings"
          :cautions="cautions"
          :empty="setup.devices.length === 0"
          @mend="mend"
          @aside="aside"
          @choose="bench.openDevice"
        />
        <ChainPanel v-else-if="shownTab === 'limits'" @cable="cable" />
        <DevicePanel
          v-else-if="shownTab === 'device' && device"
          :key="device.id"
          :device="device"
          :setup="setup"
          :region="view.home.region"
          :units="view.home.units"
          :hops="bench.light?.hops ?? []"
          :cautions="cautions.filter((own) => own.device === device?.id)"
          :findings="findings?.filter((own) => own.device_id === device?.id) ?? []"
          @mend="mend"
          @aside="aside"
          @change="change"
          @remove="remove"
        />
        <ZonesPanel v-else-if="shownTab === 'zones'" :setup="id" />
        <PartsPanel v-else-if="shownTab === 'parts'" :setup="id" />
        <EveningPanel v-else-if="shownTab === 'evening'" />
        <WalkPanel v-else-if="shownTab === 'walk'" />
        <CalibrationPanel v-else-if="shownTab === 'learnt'" :view="view" on-map />
        <SeriesPanel v-else-if="shownTab === 'series'" />
        <template v-else>
          <p v-if="tested" class="small" role="status" aria-label="Tested">
            Setup {{ setup.letter }} holds {{ tested.runs }}
            {{ tested.made_up ? 'made-up' : 'measured' }} run{{ tested.runs === 1 ? '' : 's'
            }}<template v-if="tested.changed_since.length"
              >, <b>taken before {{ tested.changed_since.join(', before ') }}</b></template
            ><template v-else>: changing it makes them readings of something else</template>.
          </p>
          <SetupFields
            :setup="setup"
            :in-force="view.home.in_force === setup.id"
            :first="placeInOrder === 0"
            :last="placeInOrder === view.home.setups.length - 1"
            @change="changeSetup"
            @remove="removeSetup(false)"
            @move="move"
            @force="force"
          />
        </template>
      </div>
    </div>
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

.stage {
  flex: 1;
  min-height: 0;
  position: relative;
  display: flex;
}

.dearest {
  border-left: 2px solid var(--straw);
  padding-left: 10px;
  line-height: 1.35;
}

.dearest button {
  color: var(--straw);
  text-decoration: underline;
}

.pull {
  position: absolute;
  right: 12px;
  bottom: 8px;
  border: 1px solid var(--paper);
  color: var(--paper);
  background: var(--night);
  padding: 4px 12px;
  font-size: 0.88rem;
}

.pull kbd {
  border: 0;
  background: none;
  color: #c9cbd6;
}

.dock {
  min-height: 0;
  background: #fff;
  border-top: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  flex: 0 0 auto;
}

.dock.up {
  flex: 0 0 clamp(170px, 27%, 300px);
}

.tabs {
  display: flex;
  gap: 2px 16px;
  padding: 0 14px;
  min-height: 32px;
  align-items: center;
  border-bottom: 1px solid var(--line);
  font-size: 0.85rem;
  white-space: nowrap;
}

[role='tablist'] {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
  min-width: 0;
}

.tabs button {
  padding: 6px 0 4px;
  border-bottom: 2px solid transparent;
  color: var(--quiet);
}

.tabs [aria-selected='true'] {
  color: var(--ink);
  font-weight: 700;
  border-bottom-color: var(--comb);
}

.tabs .state {
  margin-left: auto;
}

.tabs .going {
  text-decoration: underline;
}

.inside {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow-y: auto;
  padding: 10px 14px;
}

@media (max-width: 1100px) {
  .tabs,
  [role='tablist'] {
    gap: 0 12px;
  }

  .tabs kbd {
    display: none;
  }

  .tabs .state {
    max-width: 60px;
  }
}

@media (max-width: 900px) {
  .stage {
    flex: none;
    height: 62vh;
  }

  .dock.up {
    flex: none;
  }

  .tabs {
    flex-wrap: wrap;
  }
}
</style>

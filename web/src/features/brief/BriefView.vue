<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { v4 as newId } from 'uuid'

import { answer, api } from '../../api/client'
import type {
  BriefEdit,
  Complaint,
  Explained,
  FamilyDevice,
  Plan,
  RoomUse,
  SecondLine,
  Want,
} from '../../api/types'
import PlanTable from './PlanTable.vue'
import SocketMap from './SocketMap.vue'
import HoursField from '../../shared/HoursField.vue'
import NumberField from '../../shared/NumberField.vue'
import { WANTS } from '../../shared/wants'
import { useCatalogue } from '../../shared/useCatalogue'
import { useLatest } from '../../shared/useLatest'
import { activityWord, sentence, speed } from '../../shared/words'
import { useBench, useHome, useHomeDraft } from '../bench'

const home = useHome()
const bench = useBench()
const catalogue = useCatalogue()

const view = computed(() => home.view.value)
const rooms = computed(() => view.value?.home.house.rooms ?? [])
const regions = computed(
  () => catalogue.value?.regions.map((region) => ({ title: region.name, value: region.code })) ?? [],
)
const activities = computed(
  () =>
    catalogue.value?.activities.map((one) => ({
      title: activityWord[one.activity],
      value: one.activity,
      props: { subtitle: `${speed(one.need.down_mbps)} down, ${speed(one.need.up_mbps)} up Mb/s a person` },
    })) ?? [],
)
const lines = [
  { title: 'fibre', value: 'fibre' },
  { title: 'cable-TV line', value: 'cable' },
  { title: 'telephone line', value: 'dsl' },
  { title: 'mobile network', value: 'mobile' },
  { title: 'low-orbit satellite', value: 'low_orbit' },
  { title: 'geostationary satellite', value: 'geostationary' },
]
const tenures = [
  { title: 'owned', value: 'owned' },
  { title: 'rented: ask before drilling', value: 'rented' },
  { title: 'still being built', value: 'being_built' },
]

const draft = useHomeDraft<BriefEdit>(home, {
  name: 'brief',
  part: ({ home: { name, region, units, brief } }) => ({ name, region, units, brief }),
  send: (edit, header) =>
    api.PUT('/api/homes/{home}/brief', {
      params: { path: { home: home.id }, header },
      body: edit,
    }),
})
const edit = draft.edit

const CARRIES: { title: string; value: SecondLine['carries'] }[] = [
  { title: 'takes over by itself when the first fails', value: 'takes_over' },
  { title: 'somebody switches to it', value: 'by_hand' },
  { title: 'both at once, each connection by one', value: 'beside' },
]

function addSecondLine() {
  if (!edit.value) return
  const plan: Plan = {
    id: newId(),
    from: view.value?.today ?? '',
    down_mbps: 40,
    up_mbps: 10,
    line: 'mobile',
  }
  edit.value.brief.second_line = { carries: 'takes_over', plans: [plan] }
}

/** The order of use: the second line becomes the first. */
function swapLines() {
  const brief = edit.value?.brief
  if (!brief?.second_line) return
  const first = brief.plans
  brief.plans = brief.second_line.plans
  brief.second_line = { ...brief.second_line, plans: first }
}

function addUse() {
  const room = rooms.value[0]
  if (!room || !edit.value) return
  const use: RoomUse = { id: newId(), room_id: room.id, activity: 'browsing', people: 1, who: '' }
  edit.value.brief.uses.push(use)
}

const classes = computed(
  () =>
    catalogue.value?.clients.map((own) => ({
      title: own.name,
      value: own.key,
    })) ?? [],
)
const families = computed(() => catalogue.value?.families.map((own) => own.name) ?? [])
const ANYWHERE = { name: 'all of the home', id: null }
const ROAMS = { name: 'roams', id: null }

function addComplaint() {
  const complaint: Complaint = { id: newId(), words: '', room_id: null, comes_and_goes: false, hours: null }
  if (edit.value) edit.value.brief.complaints = [...(edit.value.brief.complaints ?? []), complaint]
}

function addDevice() {
  const device: FamilyDevice = {
    id: newId(),
    name: '',
    class: 'phone_ax',
    count: 1,
    fixed: false,
    room_id: null,
  }
  if (edit.value) edit.value.brief.devices = [...(edit.value.brief.devices ?? []), device]
}

/** Adds what a common family does and has, once what is typed is stored. */
async function addFamily(name: string | null) {
  if (!name || !(await draft.flush())) return
  await home.change((header) =>
    api.POST('/api/homes/{home}/family', { params: { path: { home: home.id }, header }, body: { name } }),
  )
}

function wantIt(want: Want, wanted: boolean | null) {
  if (!edit.value) return
  const others = (edit.value.brief.wants ?? []).filter((own) => own !== want)
  edit.value.brief.wants = wanted ? [...others, want] : others
}

const roomName = (id: string) => rooms.value.find((own) => own.id === id)?.name ?? ''
const inForce = computed(() =>
  view.value?.home.brief.plans.find((plan) => plan.id === view.value?.plan_in_force),
)
const line = computed(() => view.value?.line)
const stateOf = (id: string) => view.value?.complaints.find((own) => own.complaint_id === id)
/** What the chosen setup's prediction says to each complaint. */
const explained = shallowRef<Explained[]>([])
const explain = useLatest(async () => {
  const setup = bench.setupId
  try {
    explained.value = setup
      ? await answer(
          api.GET('/api/homes/{home}/setups/{setup}/complaints', {
            params: { path: { home: home.id, setup } },
          }),
        )
      : []
  } catch (error) {
    home.fail(error)
  }
})
watch(
  () => [view.value, bench.setupId],
  () => explain(undefined),
  { immediate: true },
)
const explainedOf = (id: string) => explained.value.find((own) => own.complaint_id === id)
const bridges = [
  { title: 'not looked at', value: null },
  { title: 'can be bridged', value: true },
  { title: 'can not be bridged', value: false },
]
</script>

<template>
  <form v-if="edit" class="page" aria-label="Brief" @submit.prevent>
    <header>
      <h1>Brief</h1>
      <span class="small quiet" role="status">{{ draft.state.value }}</span>
    </header>
    <p class="sum" role="status" aria-label="The plan and what goes on at once">
      <template v-if="line">
        <b>{{ sentence(line.told) }}</b> {{ line.advice }}
      </template>
      <template v-else>No one’s needs are noted yet.</template>
      <template v-if="!inForce && !line"> No plan is in force today.</template>
    </p>

    <section class="grid">
      <v-text-field v-model="edit.name" label="Name of the job" />
      <v-select v-model="edit.region" :items="regions" label="Country, for its radio rules" />
      <v-select
        v-model="edit.units"
        :items="[
          { title: 'metres', value: 'm' },
          { title: 'feet', value: 'ft' },
        ]"
        label="Lengths in"
      />
      <v-textarea
        v-model="edit.brief.complaint"
        class="wide"
        rows="1"
        auto-grow
        label="Complaint, in their words"
      />
    </section>

    <h2>Complaints, room by room</h2>
    <fieldset
      v-for="(complaint, index) in edit.brief.complaints ?? []"
      :key="complaint.id"
      class="complaint"
      :aria-label="`Complaint ${index + 1}`"
    >
      <v-text-field v-model="complaint.words" class="whole" label="What happens" />
      <v-select
        v-model="complaint.room_id"
        :items="[ANYWHERE, ...rooms]"
        item-title="name"
        item-value="id"
        label="Where"
      />
      <v-checkbox v-model="complaint.comes_and_goes" label="comes and goes" />
      <HoursField v-model="complaint.hours" label="At hours" />
      <v-btn
        size="small"
        variant="text"
        :aria-label="`Remove complaint ${index + 1}`"
        @click="edit.brief.complaints!.splice(index, 1)"
      >
        Remove
      </v-btn>
      <p
        v-if="stateOf(complaint.id)"
        class="whole small state"
        :class="{ open: stateOf(complaint.id)!.open }"
      >
        {{ stateOf(complaint.id)!.open ? '' : 'Answered: ' }}{{ stateOf(complaint.id)!.told }}
      </p>
      <p v-if="explainedOf(complaint.id)" class="whole small">
        <b>{{
          explainedOf(complaint.id)!.explains ? 'Predicted, and it would explain it.' : 'Predicted.'
        }}</b>
        {{ explainedOf(complaint.id)!.told }}
      </p>
      <v-text-field v-model="complaint.answer" class="whole" label="What answered it" />
    </fieldset>
    <v-btn id="add-complaint" size="small" @click="addComplaint">Add a complaint</v-btn>

    <h2>Internet plans</h2>
    <PlanTable v-model="edit.brief.plans" name="Plan" :today="view?.today ?? ''" :lines="lines" />
    <template v-if="edit.brief.second_line">
      <h2>Second line</h2>
      <div class="grid">
        <v-select v-model="edit.brief.second_line.carries" :items="CARRIES" label="When it carries" />
        <div class="row">
          <v-btn size="small" @click="swapLines">Use it first</v-btn>
          <v-btn size="small" variant="text" @click="edit.brief.second_line = null">No second line</v-btn>
        </div>
      </div>
      <PlanTable
        v-model="edit.brief.second_line.plans"
        name="Second line, plan"
        :today="view?.today ?? ''"
        :lines="lines"
      />
    </template>
    <p v-else>
      <v-btn id="add-second-line" size="small" variant="text" @click="addSecondLine"
        >There is a second line</v-btn
      >
    </p>

    <h2>Who does what where, at the busiest time</h2>
    <p v-if="rooms.length === 0" class="quiet">
      Type the rooms under <router-link :to="{ name: 'house' }">House</router-link> first; then say here what
      happens in each.
    </p>
    <table v-else class="sheet">
      <thead>
        <tr>
          <th scope="col">room</th>
          <th scope="col">does</th>
          <th scope="col">people</th>
          <th scope="col">who</th>
          <th scope="col">hours</th>
          <th><span class="visually-hidden">remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(use, index) in edit.brief.uses" :key="use.id">
          <td class="picked" data-label="room">
            <v-select
              v-model="use.room_id"
              :items="rooms"
              item-title="name"
              item-value="id"
              :aria-label="`Use ${index + 1} room`"
            />
          </td>
          <td class="picked" data-label="does">
            <v-select v-model="use.activity" :items="activities" :aria-label="`Use ${index + 1} activity`" />
          </td>
          <td class="few" data-label="people">
            <NumberField
              :value="use.people"
              of="count"
              :name="`use ${use.id} people`"
              :aria-label="`Use ${index + 1} people`"
              @change="use.people = $event"
            />
          </td>
          <td class="who" data-label="who">
            <v-text-field v-model="use.who" :aria-label="`Use ${index + 1} who`" />
          </td>
          <td class="hours" data-label="hours">
            <HoursField v-model="use.hours" :name="`Use ${index + 1} hours`" />
          </td>
          <td>
            <v-btn
              size="small"
              variant="text"
              :aria-label="`Remove use ${index + 1}`"
              @click="edit.brief.uses.splice(index, 1)"
            >
              Remove
            </v-btn>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="rooms.length > 0" class="more">
      <v-btn id="add-use" size="small" @click="addUse">Add a use</v-btn>
      <v-select
        :model-value="null"
        :items="families"
        label="Or begin from a common family"
        @update:model-value="addFamily"
      />
    </div>

    <p v-if="view?.needs.length" class="small quiet">
      What the rooms must get:
      <template v-for="(own, index) in view.needs" :key="own.room_id">
        {{ index ? '· ' : '' }}{{ roomName(own.room_id) }} {{ speed(own.need.down_mbps) }} down,
        {{ speed(own.need.up_mbps) }} up within {{ own.need.latency_ms.toFixed(0) }} ms
      </template>
    </p>

    <h2>The family’s devices</h2>
    <table v-if="(edit.brief.devices ?? []).length > 0" class="sheet">
      <thead>
        <tr>
          <th scope="col">how many</th>
          <th scope="col">what</th>
          <th scope="col">class</th>
          <th scope="col">where</th>
          <th scope="col">stands still</th>
          <th><span class="visually-hidden">remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(device, index) in edit.brief.devices" :key="device.id">
          <td class="few" data-label="how many">
            <NumberField
              :value="device.count"
              of="count"
              :name="`device ${device.id} count`"
              :aria-label="`Device ${index + 1} count`"
              @change="device.count = $event"
            />
          </td>
          <td data-label="what">
            <v-text-field v-model="device.name" :aria-label="`Device ${index + 1} name`" />
          </td>
          <td data-label="class">
            <v-select v-model="device.class" :items="classes" :aria-label="`Device ${index + 1} class`" />
          </td>
          <td data-label="where">
            <v-select
              v-model="device.room_id"
              :items="[ROAMS, ...rooms]"
              item-title="name"
              item-value="id"
              :aria-label="`Device ${index + 1} room`"
            />
          </td>
          <td data-label="stands still">
            <v-checkbox v-model="device.fixed" :aria-label="`Device ${index + 1} stands still`" />
          </td>
          <td>
            <v-btn
              size="small"
              variant="text"
              :aria-label="`Remove device ${index + 1}`"
              @click="edit.brief.devices!.splice(index, 1)"
            >
              Remove
            </v-btn>
          </td>
        </tr>
      </tbody>
    </table>
    <v-btn id="add-device" size="small" @click="addDevice">Add a device</v-btn>

    <h2>What it must be able to do</h2>
    <div class="ticks">
      <v-checkbox
        v-for="want in WANTS"
        :key="want.value"
        :model-value="(edit.brief.wants ?? []).includes(want.value)"
        :label="want.title"
        @update:model-value="wantIt(want.value, $event)"
      />
    </div>

    <h2>The line, its router and the sockets</h2>
    <section class="grid">
      <v-text-field v-if="edit.brief.router" v-model="edit.brief.router.what" label="The router there is" />
      <v-select
        v-if="edit.brief.router"
        v-model="edit.brief.router.can_bridge"
        :items="bridges"
        label="Bridge mode"
      />
    </section>
    <SocketMap v-if="view" :view="view" />

    <h2>The home and what may be done to it</h2>
    <section class="grid">
      <v-select v-model="edit.brief.tenure" :items="tenures" label="Tenure" />
      <NumberField
        :value="edit.brief.budget"
        of="money"
        name="budget"
        label="Budget, in the family’s currency"
        optional
        @change="edit.brief.budget = $event"
        @clear="edit.brief.budget = null"
      />
      <div class="ticks">
        <v-checkbox v-model="edit.brief.may_drill" label="Walls may be drilled" />
        <v-checkbox v-model="edit.brief.network_sockets" label="Network sockets in some rooms" />
        <v-checkbox v-model="edit.brief.coax_sockets" label="Coax sockets in some rooms" />
      </div>
      <v-text-field v-model="edit.brief.drilling" class="wide" label="What may be drilled, and what not" />
      <v-textarea v-model="edit.brief.constraints" class="wide" rows="1" auto-grow label="What else binds" />
    </section>
    <p v-if="edit.brief.may_drill" class="note small">
      Before drilling: look for hidden cables and pipes and for old asbestos boards, and follow local codes.
      Fixed wiring and the consumer unit are for a licensed electrician.
    </p>
    <p v-if="edit.brief.tenure === 'rented'" class="note small">
      Rented: ask the owner before drilling or fixing anything to the building.
    </p>
  </form>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}

.sum {
  margin: 4px 0 14px;
}

h2 {
  margin: 20px 0 8px;
}

.grid {
  display: grid;
  grid-template-columns: 2fr 1.4fr 1fr;
  gap: 12px;
}

.wide {
  grid-column: 1 / -1;
}

.page :deep(.sheet td) {
  padding: 4px 3px;
  border-bottom: 0;
}

.page :deep(.sheet th) {
  padding: 4px 5px;
}

.few {
  width: 58px;
}

.hours {
  width: 116px;
}

.complaint {
  display: grid;
  grid-template-columns: minmax(110px, 220px) auto 140px auto;
  justify-content: start;
  gap: 4px 14px;
  align-items: center;
  border: 0;
  border-bottom: 1px solid var(--line);
  padding: 6px 0;
}

.complaint .whole {
  grid-column: 1 / -1;
  margin: 0;
}

.complaint .state {
  color: var(--leaf);
}

.complaint .state.open {
  color: var(--comb);
}

.row {
  display: flex;
  gap: 12px;
  align-items: end;
}

.more {
  display: flex;
  gap: 14px;
  align-items: center;
}

.more .v-select {
  max-width: 320px;
}

.who {
  width: 15%;
}

.sheet .picked {
  width: 25%;
  min-width: 108px;
}

.ticks {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
}

.page :deep(.v-btn) {
  margin-top: 6px;
}

.page :deep(td .v-btn) {
  margin-top: 0;
  padding: 0 4px;
}

@media (max-width: 600px) {
  .complaint {
    grid-template-columns: 1fr;
  }

  .grid {
    grid-template-columns: 1fr;
  }

  .page :deep(:is(.sheet, .sheet tbody, .sheet tr, .sheet td)) {
    display: block;
    width: auto;
  }

  /* The heads are gone: each field says what it is. */
  .page :deep(td[data-label])::before {
    content: attr(data-label);
    font-size: 0.8rem;
    color: var(--quiet);
  }

  .page :deep(.sheet thead) {
    display: none;
  }
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { v4 as newId } from 'uuid'

import { api } from '../../api/client'
import type { BriefEdit, Plan, RoomUse } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { activityWord, numberOf, speed } from '../../shared/words'
import { useHome, useHomeDraft } from '../bench'

const home = useHome()
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
      body: {
        ...edit,
        brief: {
          ...edit.brief,
          budget: typed(edit.brief.budget),
          plans: edit.brief.plans.map((plan) => ({
            ...plan,
            down_mbps: typed(plan.down_mbps) ?? 0,
            up_mbps: typed(plan.up_mbps) ?? 0,
          })),
          uses: edit.brief.uses.map((use) => ({ ...use, people: typed(use.people) ?? 0 })),
        },
      },
    }),
})
const edit = draft.edit

/** What a number field holds; nothing when it is empty or no number. */
function typed(value: unknown): number | null {
  const parsed = numberOf(String(value ?? ''))
  return Number.isFinite(parsed) ? parsed : null
}

function addPlan() {
  const plan: Plan = {
    id: newId(),
    from: view.value?.today ?? '',
    down_mbps: 100,
    up_mbps: 20,
    line: 'fibre',
  }
  edit.value?.brief.plans.push(plan)
}

function addUse() {
  const room = rooms.value[0]
  if (!room || !edit.value) return
  const use: RoomUse = { id: newId(), room_id: room.id, activity: 'browsing', people: 1, who: '' }
  edit.value.brief.uses.push(use)
}

const roomName = (id: string) => rooms.value.find((own) => own.id === id)?.name ?? ''
const inForce = computed(() =>
  view.value?.home.brief.plans.find((plan) => plan.id === view.value?.plan_in_force),
)
const need = computed(() => view.value?.home_need)
</script>

<template>
  <form v-if="edit" class="page" aria-label="Brief" @submit.prevent>
    <header>
      <h1>Brief</h1>
      <span class="small quiet" role="status">{{ draft.state.value }}</span>
    </header>
    <p class="sum">
      <template v-if="need">
        Everything at once needs <b>{{ speed(need.down_mbps) }} down</b> and
        <b>{{ speed(need.up_mbps) }} up</b> Mb/s, answered within {{ need.latency_ms.toFixed(0) }} ms at the
        strictest.
      </template>
      <template v-else>No one’s needs are noted yet.</template>
      <template v-if="inForce">
        The plan in force since {{ inForce.from }} gives {{ speed(inForce.down_mbps) }} down and
        {{ speed(inForce.up_mbps) }} up.
      </template>
      <template v-else> No plan is in force today.</template>
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
      <v-textarea v-model="edit.brief.complaint" class="wide" rows="2" label="Complaint, in their words" />
    </section>

    <h2>Internet plans</h2>
    <table class="sheet">
      <thead>
        <tr>
          <th scope="col">in force from</th>
          <th scope="col">down, Mb/s</th>
          <th scope="col">up, Mb/s</th>
          <th scope="col">line</th>
          <th><span class="visually-hidden">remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(plan, index) in edit.brief.plans" :key="plan.id">
          <td>
            <v-text-field v-model="plan.from" type="date" :aria-label="`Plan ${index + 1} in force from`" />
          </td>
          <td>
            <v-text-field
              v-model="plan.down_mbps"
              inputmode="decimal"
              :aria-label="`Plan ${index + 1} down`"
            />
          </td>
          <td>
            <v-text-field v-model="plan.up_mbps" inputmode="decimal" :aria-label="`Plan ${index + 1} up`" />
          </td>
          <td><v-select v-model="plan.line" :items="lines" :aria-label="`Plan ${index + 1} line`" /></td>
          <td>
            <v-btn
              size="small"
              variant="text"
              :aria-label="`Remove plan ${index + 1}`"
              @click="edit.brief.plans.splice(index, 1)"
            >
              Remove
            </v-btn>
          </td>
        </tr>
      </tbody>
    </table>
    <v-btn id="add-plan" size="small" @click="addPlan">Add a plan</v-btn>

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
          <th><span class="visually-hidden">remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(use, index) in edit.brief.uses" :key="use.id">
          <td>
            <v-select
              v-model="use.room_id"
              :items="rooms"
              item-title="name"
              item-value="id"
              :aria-label="`Use ${index + 1} room`"
            />
          </td>
          <td>
            <v-select v-model="use.activity" :items="activities" :aria-label="`Use ${index + 1} activity`" />
          </td>
          <td class="few">
            <v-text-field v-model="use.people" inputmode="numeric" :aria-label="`Use ${index + 1} people`" />
          </td>
          <td class="who"><v-text-field v-model="use.who" :aria-label="`Use ${index + 1} who`" /></td>
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
    <v-btn v-if="rooms.length > 0" id="add-use" size="small" @click="addUse">Add a use</v-btn>

    <p v-if="view?.needs.length" class="small quiet">
      What the rooms must get:
      <template v-for="(own, index) in view.needs" :key="own.room_id">
        {{ index ? '· ' : '' }}{{ roomName(own.room_id) }} {{ speed(own.need.down_mbps) }} down,
        {{ speed(own.need.up_mbps) }} up within {{ own.need.latency_ms.toFixed(0) }} ms
      </template>
    </p>

    <h2>The home and what may be done to it</h2>
    <section class="grid">
      <v-select v-model="edit.brief.tenure" :items="tenures" label="Tenure" />
      <v-text-field
        v-model="edit.brief.budget"
        inputmode="decimal"
        label="Budget, in the family’s currency"
        clearable
      />
      <div class="ticks">
        <v-checkbox v-model="edit.brief.may_drill" label="Walls may be drilled" />
        <v-checkbox v-model="edit.brief.network_sockets" label="Network sockets in some rooms" />
        <v-checkbox v-model="edit.brief.coax_sockets" label="Coax sockets in some rooms" />
      </div>
      <v-textarea v-model="edit.brief.constraints" class="wide" rows="2" label="What else binds" />
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

.sheet td {
  padding: 4px;
  border-bottom: 0;
}

.sheet th {
  padding: 4px 8px;
}

.few {
  width: 74px;
}

.who {
  width: 28%;
}

.v-btn {
  margin-top: 6px;
}

td .v-btn {
  margin-top: 0;
}

@media (max-width: 600px) {
  .grid {
    grid-template-columns: 1fr;
  }

  .sheet,
  .sheet tbody,
  .sheet tr,
  .sheet td {
    display: block;
    width: auto;
  }

  .sheet thead {
    display: none;
  }
}
</style>

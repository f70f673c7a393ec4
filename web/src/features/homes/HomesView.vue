<script setup lang="ts">
import { computed, onMounted, reactive, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'

import { answer, api, ApiProblem } from '../../api/client'
import type { DeletedHome, HomeHead, LengthUnit } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { speed, stopWord } from '../../shared/words'
import { useNetwork } from '../network'
import HouseThumb from './HouseThumb.vue'

const router = useRouter()
const { network, shown: networkShown } = useNetwork()
const catalogue = useCatalogue()
const homes = shallowRef<HomeHead[]>()
const problem = ref('')
const form = reactive({
  open: false,
  name: '',
  region: 'GB',
  units: 'm' as LengthUnit,
  problem: '',
  busy: false,
})
const picker = ref<HTMLInputElement | null>(null)
const doomed = shallowRef<HomeHead>()
/** Homes that can still be brought back. */
const deleted = shallowRef<DeletedHome[]>([])
/** What goes with it, in words. */
const goes = ref('')

/** Lines to begin with, so that there is light within a minute; they are the installer's to write over. */
const EXAMPLE = {
  m: 'Hall 2 x 5\nKitchen 4 x 3.5 east of Hall\nLiving room 5 x 4 south of Kitchen\nBedroom 4 x 3.5 south of Hall flush east',
  ft: `Hall 6'6" x 16'\nKitchen 13' x 11'6" east of Hall\nLiving room 16' x 13' south of Kitchen\nBedroom 13' x 11'6" south of Hall flush east`,
}
const first = reactive({ lines: EXAMPLE.m, units: 'm' as LengthUnit, problem: '', busy: false })
function measureIn(units: LengthUnit) {
  if (first.lines === EXAMPLE[first.units]) first.lines = EXAMPLE[units]
  first.units = units
}

async function seeCoverage() {
  if (first.busy) return
  first.busy = true
  try {
    const body = { name: 'My first home', region: 'GB', units: first.units, lines: first.lines }
    const view = await answer(api.POST('/api/homes', { body }))
    await router.push({ name: 'setups', params: { home: view.id } })
  } catch (error) {
    const { faults = [], message } = error as ApiProblem
    first.problem = faults[0]?.message ?? message
  } finally {
    first.busy = false
  }
}

async function openExamples() {
  try {
    await answer(api.POST('/api/examples'))
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
  await load()
}

type Order = 'changed' | 'name' | 'worst'
const orders: { title: string; value: Order }[] = [
  { title: 'last changed first', value: 'changed' },
  { title: 'by name', value: 'name' },
  { title: 'worst off first', value: 'worst' },
]
const list = reactive({ sought: '', order: 'changed' as Order, away: false })
/** How much of what the worst room needs it gets; homes without a setup come last. */
const share = (home: HomeHead) => {
  const worst = home.summary?.in_force?.worst
  return worst ? worst.gets_mbps / Math.max(0.1, worst.needs_mbps) : Infinity
}
const away = computed(() => homes.value?.filter((home) => home.summary?.archived).length ?? 0)
const listed = computed(() => {
  const words = list.sought.toLowerCase().split(/\s+/).filter(Boolean)
  const text = (home: HomeHead) =>
    [home.summary?.name, home.summary?.complaint, home.summary?.in_force?.name].join(' ').toLowerCase()
  const found = (homes.value ?? []).filter(
    (home) => (list.away || !home.summary?.archived) && words.every((word) => text(home).includes(word)),
  )
  if (list.order === 'name') found.sort((a, b) => nameOf(a).localeCompare(nameOf(b)))
  if (list.order === 'worst') found.sort((a, b) => share(a) - share(b))
  return found
})
/** The first stop of the route at which something is open. */
const next = (home: HomeHead) => home.summary?.route.find((stop) => stop.state !== 'done')

async function putAway(home: HomeHead) {
  try {
    const path = { home: home.id }
    const { revision } = await answer(api.GET('/api/homes/{home}', { params: { path } }))
    await answer(
      api.PUT('/api/homes/{home}/archived', {
        params: { path, header: { 'If-Match': `"${revision}"` } },
        body: { archived: !home.summary?.archived },
      }),
    )
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
  await load()
}

const regions = computed(
  () => catalogue.value?.regions.map((region) => ({ title: region.name, value: region.code })) ?? [],
)

async function load() {
  try {
    homes.value = await answer(api.GET('/api/homes'))
    deleted.value = await answer(api.GET('/api/deleted-homes'))
    problem.value = ''
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
}

async function create() {
  if (form.busy) return
  form.busy = true
  try {
    const body = { name: form.name, region: form.region, units: form.units }
    const view = await answer(api.POST('/api/homes', { body }))
    await router.push({ name: 'brief', params: { home: view.id } })
  } catch (error) {
    form.problem = (error as ApiProblem).message
  } finally {
    form.busy = false
  }
}

/** Takes a home file in; when it is not one, says what is wrong with it and where. */
async function take(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const body = await file.text()
    const view = await answer(
      api.POST('/api/home-files', {
        body: body as never,
        bodySerializer: (text) => text as never,
        headers: { 'Content-Type': 'application/json' },
      }),
    )
    await router.push({ name: 'brief', params: { home: view.id } })
  } catch (error) {
    const { faults = [], message } = error as ApiProblem
    const [first] = faults
    const place = first?.pointer ? ` at ${first.pointer}` : ''
    const more = faults.length > 1 ? ` (${faults.length - 1} more like it.)` : ''
    problem.value = `${file.name}${place}: ${first?.message ?? message}${more}`
  }
}

/** Asks whether a home is to be deleted, and says what goes with it. */
async function doom(home: HomeHead) {
  doomed.value = home
  goes.value = ''
  try {
    const { holds } = await answer(api.GET('/api/homes/{home}', { params: { path: { home: home.id } } }))
    if (doomed.value?.id !== home.id) return
    const things: [number, string][] = [
      [holds.rounds, 'round'],
      [holds.runs, 'run'],
      [holds.pictures, 'picture'],
      [holds.watches, 'monitor'],
      [holds.drills, 'failure test'],
    ]
    const there = things.filter(([count]) => count > 0)
    goes.value = there.map(([count, what]) => `, ${count} ${what}${count === 1 ? '' : 's'}`).join('')
  } catch {
    // A home that can't be read can still be deleted.
  }
}

async function remove() {
  if (!doomed.value) return
  try {
    await answer(api.DELETE('/api/homes/{home}', { params: { path: { home: doomed.value.id } } }))
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
  doomed.value = undefined
  await load()
}

/** Does something to a deleted home, and shows what there is then. */
async function settle(request: Parameters<typeof answer>[0]) {
  try {
    await answer(request)
  } catch (error) {
    problem.value = (error as ApiProblem).message
  }
  await load()
}

const bringBack = (home: string) =>
  settle(api.POST('/api/deleted-homes/{home}/back', { params: { path: { home } } }))
const throwAway = (home: string) =>
  settle(api.DELETE('/api/deleted-homes/{home}', { params: { path: { home } } }))

const nameOf = (home: HomeHead) => home.summary?.name ?? 'this home'
const day = (at: string) => new Date(at).toLocaleDateString(undefined, { dateStyle: 'medium' })

onMounted(load)
</script>

<template>
  <main class="page homes">
    <header>
      <span class="wordmark">Busy <b>Hen</b></span>
      <div class="begin">
        <v-btn id="import-home" @click="picker?.click()">Import a home file</v-btn>
        <v-btn id="new-home" variant="flat" color="primary" @click="form.open = true">New home</v-btn>
      </div>
      <input
        ref="picker"
        type="file"
        accept="application/json,.json"
        hidden
        aria-label="Home file"
        @change="take"
      />
    </header>
    <div class="head">
      <h1>Homes</h1>
      <RouterLink class="link" to="/kit-record">Kit record</RouterLink>
      <button type="button" class="link" @click="networkShown = true">
        {{ network?.open ? 'Network: open' : 'Network' }}
      </button>
      <template v-if="homes?.length">
        <input
          v-model="list.sought"
          type="search"
          aria-label="Look for a home"
          placeholder="look for a home"
        />
        <label class="small"
          >Order
          <select v-model="list.order">
            <option v-for="own in orders" :key="own.value" :value="own.value">{{ own.title }}</option>
          </select></label
        >
        <button v-if="away" type="button" class="small link" @click="list.away = !list.away">
          {{ list.away ? 'hide those put away' : `show ${away} put away` }}
        </button>
      </template>
    </div>
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <section v-if="homes?.length === 0" class="first" aria-label="The first minute">
      <div>
        <h2>See light in a minute</h2>
        <p class="small">
          One line a room: its name, its size, where it lies. Change them as you like; a router is put into
          the first room, and the map shows what each room gets.
        </p>
        <form @submit.prevent="seeCoverage">
          <textarea v-model="first.lines" aria-label="Rooms, one a line" rows="4" spellcheck="false" />
          <p v-if="first.problem" class="note bad" role="alert">{{ first.problem }}</p>
          <div class="begin">
            <label class="small"
              >Lengths in
              <select
                :value="first.units"
                @change="measureIn(($event.target as HTMLSelectElement).value as LengthUnit)"
              >
                <option value="m">metres</option>
                <option value="ft">feet</option>
              </select></label
            >
            <v-btn type="submit" variant="flat" color="primary" :disabled="first.busy">See the light</v-btn>
          </div>
        </form>
      </div>
      <div>
        <h2>Or look around first</h2>
        <p class="small">
          Three made-up homes with complaints that the tool explains: a terrace on a canal with readings of a
          simulated phone, a rented flat, and a house to begin on.
        </p>
        <v-btn @click="openExamples">Open the made-up homes</v-btn>
      </div>
    </section>
    <p v-else-if="homes && listed.length === 0" class="quiet">
      No home is found by that.
      <button type="button" class="link" @click="Object.assign(list, { sought: '', away: true })">
        Show all of them
      </button>
    </p>
    <ul>
      <li v-for="home in listed" :key="home.id">
        <router-link v-if="home.summary" :to="{ name: 'brief', params: { home: home.id } }" class="card">
          <HouseThumb :thumb="home.summary.thumb ?? undefined" />
          <div class="named">
            <h2>{{ home.summary.name }}</h2>
            <span v-if="home.summary.example" class="made">made-up</span>
            <span v-if="home.summary.archived" class="made">put away</span>
          </div>
          <p v-if="home.summary.example" class="small">{{ home.summary.example }}</p>
          <p class="small">{{ home.summary.complaint || 'No complaint noted yet.' }}</p>
          <dl class="small">
            <dt>Setup</dt>
            <dd v-if="home.summary.in_force">
              {{ home.summary.in_force.letter }} {{ home.summary.in_force.name
              }}{{ home.summary.in_force.said ? ', in force' : '' }}:
              <template v-if="home.summary.in_force.needing">
                {{ home.summary.in_force.met }} of {{ home.summary.in_force.needing }} rooms get what they
                need, as predicted
              </template>
              <template v-else>no needs noted yet</template>
            </dd>
            <dd v-else>none yet</dd>
            <template v-if="home.summary.in_force?.worst">
              <dt>Worst</dt>
              <dd>
                {{ home.summary.in_force.worst.name }}:
                {{ speed(home.summary.in_force.worst.gets_mbps) }} Mb/s predicted, needs
                {{ speed(home.summary.in_force.worst.needs_mbps) }}
              </dd>
            </template>
            <template v-if="next(home)">
              <dt>Next</dt>
              <dd>{{ stopWord[next(home)!.name] }}: {{ next(home)!.note }}</dd>
            </template>
          </dl>
          <p class="small quiet">Last changed {{ day(home.changed_at) }}</p>
        </router-link>
        <div v-else class="card">
          <h2>Home that can’t be read</h2>
          <p class="small bad">{{ home.problem }}</p>
          <p class="small quiet">Last changed {{ day(home.changed_at) }}</p>
        </div>
        <div class="acts">
          <v-btn
            size="small"
            variant="text"
            :href="`/api/homes/${home.id}/file`"
            download
            :aria-label="`Export ${nameOf(home)}`"
          >
            Export
          </v-btn>
          <v-btn
            v-if="home.summary"
            size="small"
            variant="text"
            :aria-label="`${home.summary.archived ? 'Take out' : 'Put away'} ${nameOf(home)}`"
            @click="putAway(home)"
          >
            {{ home.summary.archived ? 'Take out' : 'Put away' }}
          </v-btn>
          <v-btn size="small" variant="text" :aria-label="`Delete ${nameOf(home)}`" @click="doom(home)">
            Delete
          </v-btn>
        </div>
      </li>
    </ul>
    <section v-if="deleted.length" class="small" aria-label="Deleted homes">
      <h2>Deleted</h2>
      <p>These are gone for good when Busy Hen is stopped.</p>
      <ul class="deleted">
        <li v-for="own in deleted" :key="own.id">
          {{ own.name }}
          <v-btn size="small" :aria-label="`Restore ${own.name}`" @click="bringBack(own.id)">Restore</v-btn>
          <v-btn
            size="small"
            variant="text"
            :aria-label="`Delete ${own.name} for good`"
            @click="throwAway(own.id)"
          >
            Delete for good
          </v-btn>
        </li>
      </ul>
    </section>
    <p class="small quiet foot">
      Predictions are estimates, not certification. Test and change only networks you have permission for.
    </p>

    <v-dialog v-model="form.open" aria-label="New home" max-width="440">
      <v-card title="New home">
        <v-card-text>
          <form class="new-home" @submit.prevent="create">
            <v-text-field v-model="form.name" label="Name of the job" autofocus />
            <v-select v-model="form.region" :items="regions" label="Country, for its radio rules" />
            <v-select
              v-model="form.units"
              :items="[
                { title: 'metres', value: 'm' },
                { title: 'feet', value: 'ft' },
              ]"
              label="Lengths in"
            />
            <p v-if="form.problem" class="note bad" role="alert">{{ form.problem }}</p>
            <div class="buttons">
              <v-btn @click="form.open = false">Cancel</v-btn>
              <v-btn type="submit" variant="flat" color="primary">Make it</v-btn>
            </div>
          </form>
        </v-card-text>
      </v-card>
    </v-dialog>

    <v-dialog
      :model-value="!!doomed"
      aria-label="Delete the home"
      max-width="440"
      @update:model-value="doomed = undefined"
    >
      <v-card v-if="doomed" :title="`Delete ${nameOf(doomed)}?`">
        <v-card-text>
          <p>
            This deletes its brief, house, setups and their history<template v-if="goes">{{ goes }}</template
            >. You can restore it until Busy Hen is stopped; then nothing of it stays in the database.
          </p>
          <p class="small copies">
            Copies stay where you saved them: exported files, backups of the database, and the copy that the
            program sets aside before a new version changes the database (“.version-…” beside it).
          </p>
          <div class="buttons">
            <v-btn @click="doomed = undefined">Keep it</v-btn>
            <v-btn variant="flat" color="error" @click="remove">Delete it</v-btn>
          </div>
        </v-card-text>
      </v-card>
    </v-dialog>
  </main>
</template>

<style scoped>
.homes {
  max-width: 1200px;
  margin: 0 auto;
  width: 100%;
}

header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 18px;
}

.begin {
  display: flex;
  gap: 8px;
}

.copies {
  margin: 10px 0 0;
}

.wordmark {
  font-size: 1.4rem;
}

.wordmark b {
  color: var(--comb);
}

ul {
  list-style: none;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 18px;
  margin-top: 12px;
}

li {
  position: relative;
  display: flex;
}

section[aria-label='Deleted homes'] {
  margin-top: 28px;
}

.deleted {
  display: flex;
  flex-direction: column;
  gap: 4px;
  margin-top: 6px;
}

.deleted li {
  align-items: center;
  gap: 8px;
}

.card {
  background: #fff;
  border: 1px solid var(--line);
  padding: 12px;
  text-decoration: none;
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.card:hover {
  border-color: var(--ink);
}

.card p {
  margin: 0;
}

dl {
  display: grid;
  grid-template-columns: 70px 1fr;
  margin: 0;
}

dt {
  color: var(--quiet);
}

dd {
  margin: 0;
}

.acts {
  position: absolute;
  right: 8px;
  bottom: 6px;
  background: #fff;
}

.card {
  padding-bottom: 34px;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  align-items: baseline;
}

.head input,
select {
  border: 0;
  border-bottom: 1px solid var(--quiet);
  padding: 3px 2px;
  background: none;
  font: inherit;
}

.link {
  text-decoration: underline;
}

.named {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
}

.made {
  font-size: 0.78rem;
  font-weight: 400;
  font-style: italic;
  color: var(--comb);
  margin-left: 6px;
}

.first {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 20px 40px;
  margin-top: 14px;
}

.first > div,
.first form {
  display: grid;
  gap: 10px;
  align-content: start;
  justify-items: start;
}

.first form,
.first textarea {
  width: 100%;
}

.first textarea {
  background: #fff;
  border: 1px solid var(--quiet);
  padding: 8px 10px;
  font: inherit;
  line-height: 1.5;
}

.first .begin {
  align-items: center;
  gap: 20px;
}

@media (max-width: 900px) {
  .first {
    grid-template-columns: minmax(0, 1fr);
  }
}

.new-home {
  display: grid;
  gap: 14px;
  padding-top: 6px;
}

.buttons {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  margin-top: 12px;
}

.foot {
  margin-top: 28px;
}
</style>

<script setup lang="ts">
import { computed, onMounted, reactive, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'

import { answer, api, ApiProblem } from '../../api/client'
import type { HomeHead, LengthUnit } from '../../api/types'
import { useCatalogue } from '../../shared/useCatalogue'
import { stopWord } from '../../shared/words'
import HouseThumb from './HouseThumb.vue'

const router = useRouter()
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

const regions = computed(
  () => catalogue.value?.regions.map((region) => ({ title: region.name, value: region.code })) ?? [],
)

async function load() {
  try {
    homes.value = await answer(api.GET('/api/homes'))
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
    <h1>Homes</h1>
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <p v-if="homes?.length === 0" class="quiet">
      No home yet. Make one with “New home”, type its rooms, and place a router.
    </p>
    <ul>
      <li v-for="home in homes" :key="home.id">
        <router-link v-if="home.summary" :to="{ name: 'brief', params: { home: home.id } }" class="card">
          <HouseThumb :thumb="home.summary.thumb ?? undefined" />
          <h2>{{ home.summary.name }}</h2>
          <p class="small">{{ home.summary.complaint || 'No complaint noted yet.' }}</p>
          <dl class="small">
            <template v-for="stop in home.summary.route" :key="stop.name">
              <dt>{{ stopWord[stop.name] }}</dt>
              <dd>{{ stop.note }}</dd>
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
          <v-btn size="small" variant="text" :aria-label="`Delete ${nameOf(home)}`" @click="doomed = home">
            Delete
          </v-btn>
        </div>
      </li>
    </ul>
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
          Its house, setups and all readings go with it, and this can’t be undone.
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
  bottom: 8px;
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

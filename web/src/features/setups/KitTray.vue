<script setup lang="ts">
import { StorageSerializers, useSessionStorage } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, shallowRef } from 'vue'

import { api } from '../../api/client'
import type { Kit, LengthUnit } from '../../api/types'
import { useBench, useHome } from '../bench'
import KitCard from './KitCard.vue'
import OwnKitForm from './OwnKitForm.vue'
import { useAllKit } from './useAllKit'

defineProps<{ empty: boolean; units: LengthUnit }>()
const emit = defineEmits<{
  place: [kit: string, pointer: { clientX: number; clientY: number } | undefined]
  series: [kit: string]
  close: []
}>()

const home = useHome()
const bench = useBench()
const all = useAllKit()
const ghost = ref<{ name: string; x: number; y: number }>()
const sought = ref('')
const looked = ref('')
const own = computed<Kit[]>(() => home.view.value?.home.own_kit ?? [])
const isOwn = (kit: Kit) => own.value.some((one) => one.key === kit.key)
/** One's own first; of the search each word counts. */
const listed = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  return all.value.filter((kit) => words.every((word) => kit.name.toLowerCase().includes(word)))
})
/** Opens what is known of a kit where it can be read, or shuts it. */
async function look(key: string, opener: Element) {
  looked.value = looked.value === key ? '' : key
  await nextTick()
  if (looked.value) opener.closest('li')?.scrollIntoView({ block: 'start' })
}

let held: { kit: string; x: number; y: number } | undefined
let dropped = false

function grab(event: PointerEvent, kit: string) {
  held = { kit, x: event.clientX, y: event.clientY }
  dropped = false
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}

function carry(event: PointerEvent, name: string) {
  if (!held) return
  const far = Math.hypot(event.clientX - held.x, event.clientY - held.y) > 6
  if (far || ghost.value) ghost.value = { name, x: event.clientX, y: event.clientY }
}

function drop(event: PointerEvent) {
  if (held && ghost.value) {
    dropped = true
    emit('place', held.kit, { clientX: event.clientX, clientY: event.clientY })
  }
  held = undefined
  ghost.value = undefined
}

/** A click or key without a drag puts the device into the chosen room. */
function click(kit: string) {
  if (!dropped) emit('place', kit, undefined)
  dropped = false
}

/** What is described in the form, and what was wrong with it. */
const described = shallowRef<Kit>()
/** What stands in the form, so that a page loaded anew goes on with it. */
const halfWritten = useSessionStorage<Kit | null>(`busy-hen own kit ${home.id}`, null, {
  serializer: StorageSerializers.object,
})
onMounted(() => {
  if (halfWritten.value) described.value = halfWritten.value
})

function close() {
  described.value = undefined
  halfWritten.value = null
}
const problem = ref('')
const picker = ref<HTMLInputElement | null>(null)

function describe(kit?: Kit) {
  problem.value = ''
  const like: Kit = kit ?? {
    key: '',
    name: '',
    modes: ['mesh_node', 'router', 'access_point'],
    radios: [],
    uplink_port_mbps: 1000,
    lan_port_mbps: 1000,
  }
  // A copy of what ships gets a key of its own, and its usual prices are left out: they are not one's own.
  described.value =
    kit && isOwn(kit)
      ? kit
      : {
          ...like,
          key: '',
          name: kit ? `my ${kit.name}` : '',
          facts: { ...like.facts, price: null, packs: [] },
        }
}

const send = (kit: Kit[]) =>
  home.change((header) =>
    api.PUT('/api/homes/{home}/own-kit', { params: { path: { home: home.id }, header }, body: { kit } }),
  )

async function keep(kit: Kit) {
  const done = await send([...own.value.filter((one) => !kit.key || one.key !== kit.key), kit])
  problem.value = done ? '' : home.problem.value
  if (!done) return
  close()
  looked.value = kit.key || (own.value.at(-1)?.key ?? '')
}

const takeOut = (kit: Kit) => send(own.value.filter((one) => one.key !== kit.key))

async function takeTable(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const csv = await file.text()
  await home.change((header) =>
    api.POST('/api/homes/{home}/own-kit/table', {
      params: { path: { home: home.id }, header },
      body: { csv },
    }),
  )
}
</script>

<template>
  <section class="drawer" aria-label="Kit">
    <p class="small">
      {{
        empty
          ? 'Place the router first: drag it to where the line enters.'
          : 'Drag kit onto the map, or press it to put it into the chosen room.'
      }}
      <button v-if="!empty" type="button" class="link" @click="emit('close')">put the kit away</button>
    </p>
    <input v-model="sought" type="search" aria-label="Look for kit" placeholder="ax, outdoor, switch …" />
    <ul>
      <li v-for="kit in listed" :key="kit.key">
        <button
          type="button"
          class="kit"
          :data-kit="kit.key"
          @pointerdown="grab($event, kit.key)"
          @pointermove="carry($event, kit.name)"
          @pointerup="drop"
          @pointercancel="drop"
          @click="click(kit.key)"
        >
          {{ kit.name }} <i v-if="isOwn(kit)">my own</i>
        </button>
        <button
          type="button"
          class="more"
          :aria-expanded="looked === kit.key"
          :aria-label="`${looked === kit.key ? 'less' : 'more'} about ${kit.name}`"
          @click="look(kit.key, $event.currentTarget as Element)"
        >
          {{ looked === kit.key ? 'less' : 'more' }}
        </button>
        <KitCard
          v-if="looked === kit.key"
          class="about"
          :kit="kit"
          :units="units"
          :own="isOwn(kit)"
          @place="emit('place', kit.key, undefined)"
          @series="bench.setupId && emit('series', kit.key)"
          @describe="describe(kit)"
          @remove="takeOut(kit)"
        />
      </li>
      <li v-if="listed.length === 0" class="small quiet none">
        No such kit here.
        <button type="button" class="link" @click="describe()">Describe your own</button>
      </li>
    </ul>
    <p class="small own">
      My own kit:
      <button type="button" class="link" @click="describe()">describe it</button>,
      <button type="button" class="link" @click="picker?.click()">take a table in</button>,
      <a :href="own.length ? `/api/homes/${home.id}/own-kit.csv` : '/api/kit.csv'" download>{{
        own.length ? 'as a table' : 'a table to begin from'
      }}</a>
      (<a href="/api/kit.schema.json" download>its columns</a>)
    </p>
    <input
      ref="picker"
      type="file"
      accept=".csv,text/csv"
      hidden
      aria-label="Table of kit"
      @change="takeTable"
    />
    <div v-if="ghost" class="ghost" :style="{ left: `${ghost.x + 10}px`, top: `${ghost.y + 10}px` }">
      {{ ghost.name }}
    </div>
    <v-dialog :model-value="!!described" aria-label="My own kit" max-width="760" @update:model-value="close">
      <v-card title="My own kit">
        <v-card-text>
          <OwnKitForm
            v-if="described"
            :key="described.key"
            :kit="described"
            :problem="problem"
            @take="keep"
            @typed="halfWritten = $event"
            @close="close"
          />
        </v-card-text>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
/* A drawer over the map's edge. */
.drawer {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: min(320px, 100%);
  display: flex;
  flex-direction: column;
  padding: 8px 10px;
  background: #fff;
  border-left: 1px solid var(--quiet);
  z-index: 3;
}

p {
  margin: 0 0 6px;
}

input[type='search'] {
  border: 0;
  border-bottom: 1px solid var(--quiet);
  padding: 3px 2px;
  font-size: 0.84rem;
  background: none;
}

ul {
  list-style: none;
  padding: 0;
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  border-bottom: 1px solid var(--line);
}

.about,
.none {
  grid-column: 1 / -1;
}

.kit {
  padding: 6px 2px;
  font-size: 0.82rem;
  line-height: 1.25;
  text-align: left;
  touch-action: pan-y;
  cursor: grab;
}

.kit:hover {
  background: var(--select);
}

.kit i {
  font-style: normal;
  color: var(--comb);
}

.more {
  font-size: 0.76rem;
  color: var(--quiet);
  text-decoration: underline;
  padding: 0 4px;
}

.own {
  margin: 6px 0 0;
  padding-top: 4px;
  border-top: 1px solid var(--quiet);
}

.link {
  text-decoration: underline;
  color: var(--quiet);
}

.ghost {
  position: fixed;
  background: var(--ink);
  color: #fff;
  padding: 3px 8px;
  font-size: 0.8rem;
  pointer-events: none;
  z-index: 10;
}
</style>

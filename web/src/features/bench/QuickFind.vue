<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import type { HomeView } from '../../api/types'
import { stopWord } from '../../shared/words'
import { useBench } from './useBench'

const props = defineProps<{ view: HomeView }>()
const open = defineModel<boolean>({ required: true })

const bench = useBench()
const router = useRouter()
const words = ref('')
const chosen = ref(0)

interface Hit {
  kind: string
  name: string
  go(): void
}

const all = computed<Hit[]>(() => {
  const to = (name: string) => void router.push({ name, params: { home: props.view.id } })
  const rooms = props.view.drawing.rooms.map((room) => ({
    kind: 'room',
    name: room.name,
    go() {
      bench.roomId = room.room_id
      bench.levelId = room.level_id
    },
  }))
  const setups = props.view.home.setups.flatMap((setup) => [
    { kind: 'setup', name: `${setup.letter} ${setup.name}`, go: () => (bench.setupId = setup.id) },
    ...setup.devices.map((device) => ({
      kind: `device in ${setup.letter}`,
      name: device.name,
      go() {
        bench.setupId = setup.id
        bench.levelId = device.at.level_id
        bench.deviceId = device.id
        to('setups')
      },
    })),
  ])
  const stops = props.view.route.map((stop) => ({
    kind: 'stop',
    name: stopWord[stop.name],
    go: () => to(stop.name),
  }))
  return [...rooms, ...setups, ...stops]
})

const hits = computed(() => {
  const asked = words.value.trim().toLowerCase()
  return all.value.filter((hit) => hit.name.toLowerCase().includes(asked)).slice(0, 9)
})

watch(words, () => (chosen.value = 0))
watch(open, () => (words.value = ''))

function take(hit: Hit | undefined) {
  if (!hit) return
  open.value = false
  hit.go()
}

function key(event: KeyboardEvent) {
  const count = Math.max(hits.value.length, 1)
  if (event.key === 'ArrowDown') chosen.value = (chosen.value + 1) % count
  else if (event.key === 'ArrowUp') chosen.value = (chosen.value + count - 1) % count
  else if (event.key === 'Enter') take(hits.value[chosen.value])
  else return
  event.preventDefault()
}
</script>

<template>
  <v-dialog v-model="open" aria-label="Find" max-width="460">
    <v-card>
      <v-card-text>
        <v-text-field v-model="words" label="Find a room, setup, device or stop" autofocus @keydown="key" />
        <ul>
          <li v-for="(hit, index) in hits" :key="hit.kind + hit.name">
            <button type="button" :class="{ chosen: index === chosen }" @click="take(hit)">
              {{ hit.name }} <span>{{ hit.kind }}</span>
            </button>
          </li>
        </ul>
        <p v-if="hits.length === 0" class="quiet">Nothing in this home is called that.</p>
      </v-card-text>
    </v-card>
  </v-dialog>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin-top: 8px;
}

button {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 6px 8px;
}

button.chosen,
button:hover {
  background: var(--select);
}

span {
  color: var(--quiet);
  font-size: 0.8rem;
}
</style>

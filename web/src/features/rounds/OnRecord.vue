<script setup lang="ts">
import { computed } from 'vue'

import { answer, api } from '../../api/client'
import type { RoundView } from '../../api/types'
import { speed, when } from '../../shared/words'
import { useHome } from '../bench'

const emit = defineEmits<{ allowed: [] }>()
const props = defineProps<{ open: RoundView; see: (what: string, seen: boolean) => Promise<void> }>()
const home = useHome()
const record = computed(() => props.open.round.on_record)
const devices = computed(() => props.open.tested.home.setups[0]?.devices ?? [])
const name = (id: string) => devices.value.find((own) => own.id === id)?.name ?? 'a device'
const machine = computed(() => {
  const own = record.value?.machine
  if (!own) return 'this machine alone: nothing else reaches it'
  const by =
    own.wired == null ? '' : own.wired ? ', by cable' : ', by its own Wi-Fi: the test shows half or less'
  return `${own.interface}${by}${own.port_mbps ? `, ${speed(own.port_mbps)} Mb/s: no local test is faster` : ''}`
})
const radios = computed(() =>
  (record.value?.radios ?? [])
    .map((own) => `${name(own.device_id)} ${own.band} GHz as ${own.generation}`)
    .join(', '),
)
const firmware = computed(() =>
  devices.value
    .flatMap((own) =>
      own.firmware
        ? [`${own.name} ${own.firmware.version}${own.firmware.from ? ` of ${own.firmware.from}` : ''}`]
        : [],
    )
    .join(', '),
)
const all = computed(() => props.open.round.confirmed ?? [])
/** Not seen as the round began: its readings may be of the state before. */
const unseen = computed(() => all.value.filter((own) => !own.seen || own.seen_later))
const seen = computed(() => all.value.filter((own) => own.seen && !own.seen_later))
const stillUnseen = computed(() => unseen.value.filter((own) => !own.seen).length)

async function allow() {
  try {
    await answer(
      api.PUT('/api/rounds/{round}/kit-report', { params: { path: { round: props.open.round.id } } }),
    )
    emit('allowed')
  } catch (error) {
    home.fail(error)
  }
}

async function tick(what: string, event: Event) {
  try {
    await props.see(what, (event.target as HTMLInputElement).checked)
  } catch (error) {
    home.fail(error)
  }
}
</script>

<template>
  <details v-if="unseen.length" class="note small" aria-label="Not confirmed">
    <summary>
      {{ unseen.length }} of {{ all.length }} changes not seen to have taken effect before this round{{
        stillUnseen < unseen.length ? `, ${unseen.length - stillUnseen} seen since` : ''
      }}
    </summary>
    <label v-for="own in unseen" :key="own.what">
      <input type="checkbox" :checked="own.seen" @change="tick(own.what, $event)" />
      <span>
        {{ own.what }} <i v-if="own.seen_later">Seen {{ when(own.seen_later) }}.</i>
      </span>
    </label>
    <p>Tick what you see now. What was tested before may be of the state before.</p>
  </details>
  <details v-if="record" class="small quiet">
    <summary>On record as it began</summary>
    <dl>
      <dt>machine of the local test</dt>
      <dd>{{ machine }}</dd>
      <template v-if="record.far_end || record.far_end_place">
        <dt>far end</dt>
        <dd>{{ [record.far_end, record.far_end_place].filter(Boolean).join(', ') }}</dd>
      </template>
      <dt>radios on air</dt>
      <dd>{{ radios || 'none' }}</dd>
      <dt>firmware</dt>
      <dd>{{ firmware || 'not noted; type it in at the device under Setups' }}</dd>
      <template v-if="record.kit_report">
        <dt>the kit reports at</dt>
        <dd>
          {{ record.kit_report }}
          <template v-if="open.kit_report_unsaid">
            (it came with a file, and is not asked until you allow it)
            <button type="button" class="link" @click="allow">Allow it</button>
          </template>
        </dd>
      </template>
      <template v-if="seen.length">
        <dt>seen to have taken effect</dt>
        <dd>{{ seen.map((own) => own.what).join(' ') }}</dd>
      </template>
    </dl>
  </details>
</template>

<style scoped>
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  min-height: 28px;
}

dl {
  display: grid;
  grid-template-columns: 190px 1fr;
  gap: 2px 10px;
  margin: 4px 0 8px;
}

dd {
  color: var(--ink);
}

.link {
  text-decoration: underline;
}
</style>

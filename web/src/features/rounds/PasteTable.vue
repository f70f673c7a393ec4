<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

import { answer, api, type ApiProblem } from '../../api/client'
import type { Column, Decimals, RateUnit, TableRead } from '../../api/types'
import { speed } from '../../shared/words'
import { useLatest } from '../../shared/useLatest'

const props = defineProps<{ round: string }>()
const emit = defineEmits<{ close: []; kept: [] }>()

/** A half-typed table survives a reload; what a tool's columns hold is remembered by its headings. */
const text = useLocalStorage(`busy-hen table ${props.round}`, '')
const tool = useLocalStorage('busy-hen table tool', '')
const known = useLocalStorage<
  Record<string, { columns: Column[]; unit: RateUnit | null; decimals?: Decimals | null }>
>('busy-hen table columns', {})
const read = shallowRef<TableRead>()
const columns = ref<Column[]>()
const unit = ref<RateUnit | null>(null)
/** How its numbers are written, where the table leaves doubt and somebody said it. */
const decimals = ref<Decimals | null>(null)
const problem = ref('')
const busy = ref(false)

const COLUMNS: { value: Column; title: string }[] = [
  { value: 'ignore', title: 'not wanted' },
  { value: 'spot', title: 'spot (room)' },
  { value: 'at', title: 'when' },
  { value: 'down', title: 'down' },
  { value: 'up', title: 'up' },
  { value: 'idle', title: 'idle ms' },
  { value: 'loaded', title: 'load ms' },
  { value: 'jitter', title: 'jitter ms' },
  { value: 'loss', title: 'loss %' },
  { value: 'signal', title: 'signal dBm' },
  { value: 'link_rate', title: 'link rate' },
  { value: 'note', title: 'note' },
]
const STYLES: { value: Decimals; title: string }[] = [
  { value: 'point', title: '1,500.0' },
  { value: 'comma', title: '1.500,0' },
]
const UNITS: { value: RateUnit; title: string }[] = [
  { value: 'megabit_per_second', title: 'Mb/s, megabits' },
  { value: 'megabyte_per_second', title: 'MB/s, megabytes: 8 times as many' },
  { value: 'kilobit_per_second', title: 'kb/s' },
  { value: 'gigabit_per_second', title: 'Gb/s' },
]

const ask = (keep: boolean) =>
  answer(
    api.POST('/api/rounds/{round}/table', {
      params: { path: { round: props.round } },
      body: {
        text: text.value,
        columns: columns.value ?? null,
        unit: unit.value,
        decimals: decimals.value,
        tool: tool.value,
        keep,
      },
    }),
  )

let headings = ''
async function lookOnce(): Promise<void> {
  if (!text.value.trim()) {
    read.value = undefined
    problem.value = ''
    return
  }
  try {
    const got = await ask(false)
    const now = got.headings.join('\t')
    if (now !== headings) {
      headings = now
      const before = known.value[now]
      columns.value = before?.columns ?? got.columns
      unit.value = before?.unit ?? got.unit ?? null
      decimals.value = before?.decimals ?? null
      if (before) return lookOnce()
    }
    read.value = got
    problem.value = ''
  } catch (error) {
    read.value = undefined
    problem.value = (error as ApiProblem).message
  }
}
const look = useLatest<void>(lookOnce)
watch([text, columns, unit, decimals], () => look(), { deep: true, immediate: true })

const lines = computed(() => read.value?.rows.length ?? 0)
const ready = computed(
  () => !!read.value?.unit && !!read.value.decimals && lines.value > 0 && read.value.problems.length === 0,
)

function choose(index: number, column: Column) {
  if (!read.value) return
  // One column holds a thing; where it stood before holds nothing.
  columns.value = (columns.value ?? read.value.columns).map((own, at) =>
    at === index ? column : own === column ? 'ignore' : own,
  )
}

async function keep() {
  if (busy.value || !ready.value) return
  busy.value = true
  try {
    await ask(true)
    known.value = {
      ...known.value,
      [headings]: { columns: columns.value ?? [], unit: unit.value, decimals: decimals.value },
    }
    text.value = ''
    emit('kept')
    emit('close')
  } catch (error) {
    problem.value = (error as ApiProblem).message
  } finally {
    busy.value = false
  }
}

async function open(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) text.value = await file.text()
}
</script>

<template>
  <v-card title="Readings of another test">
    <v-card-text>
      <p class="small quiet">
        Paste lines from a spreadsheet, or open a CSV file: a line of headings, then one reading a line. Both
        speeds left empty mean no connection.
      </p>
      <v-textarea v-model="text" label="Table" rows="6" class="table" spellcheck="false" />
      <label class="small">or a file <input type="file" accept=".csv,.tsv,text/csv" @change="open" /></label>
      <div class="two">
        <v-text-field v-model="tool" label="What tested" placeholder="the phone’s own test page" />
        <v-select
          v-if="read"
          v-model="unit"
          :items="UNITS"
          label="Speeds are in"
          :class="{ asked: !read.unit }"
        />
      </div>
      <p v-if="read && !read.unit" class="note small" role="status">
        The headings don’t say whether the speeds are megabits or megabytes: choose. A byte is eight bits.
      </p>
      <div v-if="read && !read.decimals" class="note small ways" role="status">
        “{{ read.unclear }}” can be read in two ways. How does this table write one and a half thousand?
        <v-btn v-for="own in STYLES" :key="own.value" size="small" @click="decimals = own.value">{{
          own.title
        }}</v-btn>
      </div>
      <div v-if="read" class="scroll">
        <table class="sheet">
          <thead>
            <tr>
              <th v-for="(heading, index) in read.headings" :key="index" scope="col">
                {{ heading }}
                <v-select
                  :model-value="(columns ?? read.columns)[index]"
                  :items="COLUMNS"
                  :aria-label="`${heading} holds`"
                  @update:model-value="choose(index, $event)"
                />
              </th>
            </tr>
          </thead>
        </table>
      </div>
      <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
      <ul v-if="read?.problems.length" class="note bad" role="alert">
        <li v-for="own in read.problems.slice(0, 6)" :key="own">{{ own }}</li>
        <li v-if="read.problems.length > 6">and {{ read.problems.length - 6 }} more</li>
      </ul>
      <p v-else-if="lines" class="small" role="status">
        Read as {{ lines }} reading{{ lines === 1 ? '' : 's' }}:
        <template v-for="own in read?.rows.slice(0, 4)" :key="own.line">
          {{ own.spot }}
          {{
            own.outcome.kind === 'measured'
              ? `${speed(own.outcome.down_mbps)} / ${speed(own.outcome.up_mbps)} Mb/s`
              : 'no connection'
          }};
        </template>
        {{ lines > 4 ? '…' : '' }}
      </p>
      <div class="end">
        <v-btn size="small" @click="emit('close')">Close</v-btn>
        <v-btn size="small" variant="flat" color="primary" :disabled="!ready || !tool.trim()" @click="keep">
          Keep {{ lines || '' }} reading{{ lines === 1 ? '' : 's' }}
        </v-btn>
      </div>
    </v-card-text>
  </v-card>
</template>

<style scoped>
p {
  margin: 0 0 14px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  margin: 10px 0;
}

.scroll {
  overflow-x: auto;
}

.scroll th {
  min-width: 120px;
}

.table :deep(textarea) {
  font-family: monospace;
  font-size: 0.85rem;
}

.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 10px;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
</style>

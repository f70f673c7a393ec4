<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { computed, ref } from 'vue'

import UnsentNote from '../../shared/UnsentNote.vue'
import { when } from '../../shared/words'
import { useBench, useHome } from '../bench'
import DeviceNotes from './DeviceNotes.vue'
import { useWatches } from './useWatches'
import WatchShown from './WatchShown.vue'

const home = useHome()
const bench = useBench()
const { list, shown, told, brought, bring, remove, unsent, removeNote } = useWatches()
const { waiting, problem, refused } = unsent

const picker = ref<HTMLInputElement>()
const setups = computed(() => home.view.value?.home.setups ?? [])
const setup = computed(() => setups.value.find((own) => own.id === bench.setupId))
const command = computed(() => list.value?.commands.find((own) => own.setup_id === bench.setupId))
/** Also where the address is no secure one, as on a bench that others reach. */
const { copy, copied } = useClipboard({ legacy: true })
const doomed = ref(false)

function take(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void bring(file)
}
</script>

<template>
  <div class="page watch">
    <header>
      <div class="row">
        <h1>Watch</h1>
        <v-btn size="small" @click="picker?.click()">Bring a log …</v-btn>
        <input
          ref="picker"
          type="file"
          accept=".jsonl,.json,.txt"
          hidden
          aria-label="Log of a watch"
          @change="take"
        />
      </div>
      <p class="quiet">
        Faults that come and go show only over days: a watch knocks at every device and beyond the line, and
        writes down what does not answer.
      </p>
      <p v-if="brought" role="status" class="note small">{{ brought }}</p>
      <UnsentNote :waiting="waiting" :problem="problem" :refused="refused" @forget="unsent.forget" />
    </header>
    <section v-if="told && shown" aria-label="What was watched">
      <div v-if="(list?.watches.length ?? 0) > 1" class="row">
        <v-select
          v-model="shown"
          class="which"
          label="Watch"
          :items="
            list?.watches.map((own) => ({
              value: own.id,
              title: `${own.begun ? when(own.begun) : 'nothing seen'}${own.made_up ? ', made up' : ''}`,
            }))
          "
        />
      </div>
      <WatchShown :told="told" />
      <div class="row small">
        <a class="link" :href="`/api/homes/${home.id}/watches/${shown}/log`" download>Its log out</a>
        <button v-if="!doomed" type="button" class="text" @click="doomed = true">throw it away …</button>
        <template v-else>
          <span>For good?</span>
          <button type="button" class="text" @click="(remove(shown!), (doomed = false))">
            Throw it away
          </button>
          <button type="button" class="text" @click="doomed = false">Keep it</button>
        </template>
      </div>
    </section>
    <section class="leave" aria-label="Leave a watch">
      <h2>Leave one behind</h2>
      <p class="small">
        On a machine that stays in the home and is always on, best one by wire, with Busy Hen on it. Ask the
        family first. It sends nothing to the devices, and needs none of their passwords.
      </p>
      <template v-if="command && setup?.devices.length">
        <pre><code>{{ command.command }}</code></pre>
        <div class="row small">
          <v-btn size="small" @click="copy(command.command)">{{
            copied ? 'Copied' : 'Copy the command'
          }}</v-btn>
          <span v-if="command.without_address.length" class="quiet">
            Put in where the settings of {{ command.without_address.join(', ') }} are, or note it with the
            device under Setups.
          </span>
        </div>
        <p class="small quiet">
          Add <code>--by-radio</code> where that machine hangs by radio itself, and
          <code>--far-end URL#TOKEN</code> for what is beyond the line and for short transfers at set hours.
          It goes on with its log, <code>busy-hen-watch.jsonl</code>, when it is started again; what it missed
          is told.
        </p>
      </template>
      <p v-else class="small quiet">
        Nothing is placed yet:
        <RouterLink class="link" :to="{ name: 'setups' }">place the devices first</RouterLink>.
      </p>
    </section>
    <DeviceNotes
      v-if="setup?.devices.length || list?.notes.length"
      :setup="setup"
      :setups="setups"
      :notes="[...(list?.notes ?? []), ...unsent.list.value]"
      @add="unsent.add"
      @remove="removeNote"
    />
  </div>
</template>

<style scoped>
.watch {
  display: grid;
  gap: 18px;
  align-content: start;
}

header,
section {
  display: grid;
  gap: 8px;
  min-width: 0;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}

.which {
  max-width: 340px;
}

.note {
  border-left: 4px solid var(--yolk);
  padding: 2px 10px;
}

pre {
  margin: 0;
  padding: 8px 12px;
  background: #fff;
  border: 1px solid var(--line);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>

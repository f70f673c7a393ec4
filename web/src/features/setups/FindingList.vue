<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Caution, Finding } from '../../api/types'
import CautionList from './CautionList.vue'

/** What is wrong with the setup, what it costs and the one action that mends it. */
const props = defineProps<{ findings: Finding[] | undefined; cautions: Caution[]; empty: boolean }>()
const emit = defineEmits<{
  mend: [finding: Finding, copy: boolean]
  choose: [device: string]
  aside: [finding: Finding, because: string | undefined]
}>()

const standing = computed(() => props.findings?.filter((own) => own.put_aside == null))
const aside = computed(() => props.findings?.filter((own) => own.put_aside != null) ?? [])
/** What is about harm, law or safety is put aside in sight. */
const asideParts = computed(() =>
  [
    { is: 'div', list: aside.value.filter((own) => own.grave) },
    { is: 'details', list: aside.value.filter((own) => !own.grave) },
  ].filter((part) => part.list.length),
)
const nameOf = (own: Finding) => `${own.rule} ${own.device_id}`
/** The finding for which a reason is being typed. */
const asked = ref('')
const because = ref('')

function ask(own: Finding) {
  asked.value = nameOf(own)
  because.value = ''
}

function putAside(own: Finding) {
  if (!because.value.trim()) return
  emit('aside', own, because.value.trim())
  asked.value = ''
}

const basis = {
  standard: 'a standard or rule',
  computed: 'computed with and without',
  common_practice: 'common practice',
}
</script>

<template>
  <section aria-label="Findings">
    <p v-if="empty" class="quiet">
      Nothing stands in this setup yet. Pull out the kit and drag a router to where the line enters.
    </p>
    <p v-else-if="findings === undefined" class="quiet">Looking for mistakes …</p>
    <p v-else-if="standing?.length === 0" class="quiet">
      Nothing wrong was found. Choose a room to see what limits it, or a device for its settings.
    </p>
    <ol v-else>
      <li v-for="own in standing" :key="nameOf(own)">
        <p class="what">
          <b>{{ own.what }}</b>
          {{ ' ' }}
          <button
            v-if="own.device_id"
            type="button"
            class="small link"
            @click="emit('choose', own.device_id)"
          >
            settings
          </button>
          <button v-if="asked !== nameOf(own)" type="button" class="small link" @click="ask(own)">
            put aside
          </button>
        </p>
        <form v-if="asked === nameOf(own)" class="fix" @submit.prevent="putAside(own)">
          <input
            v-model="because"
            type="text"
            aria-label="Why it is put aside"
            placeholder="Why may it stay so?"
            maxlength="400"
            autofocus
          />
          <v-btn size="small" type="submit" :disabled="!because.trim()">Put it aside</v-btn>
          <button type="button" class="small link" @click="asked = ''">leave it</button>
        </form>
        <p class="small quiet">
          {{ own.why }} <i>({{ basis[own.basis] }})</i>
        </p>
        <p v-if="own.fix" class="fix">
          <v-btn size="small" @click="emit('mend', own, false)">{{ own.fix }}</v-btn>
          <button type="button" class="small link" @click="emit('mend', own, true)">try it in a copy</button>
          <span class="small">{{ own.gain }}</span>
        </p>
      </li>
    </ol>
    <component :is="part.is" v-for="part in asideParts" :key="part.is" class="small aside">
      <summary v-if="part.is === 'details'">{{ part.list.length }} put aside</summary>
      <p v-for="own in part.list" :key="nameOf(own)">
        {{ own.what }} <b>{{ own.put_aside }}</b>
        <button type="button" class="link" @click="emit('aside', own, undefined)">take it up again</button>
      </p>
    </component>
    <CautionList :cautions="cautions" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}

ol {
  list-style: none;
  display: grid;
  gap: 8px;
}

li {
  border-left: 3px solid var(--yolk);
  padding-left: 10px;
}

.what {
  font-size: 0.9rem;
}

.fix {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin-top: 3px;
}

input {
  border: 0;
  border-bottom: 1px solid var(--quiet);
  padding: 2px;
  min-width: 260px;
  font-size: 0.84rem;
}

.what .link {
  margin-left: 8px;
}

.link {
  text-decoration: underline;
  color: var(--quiet);
}

i {
  font-style: normal;
}
</style>

<script setup lang="ts">
import type { Caution, Finding } from '../../api/types'
import CautionList from './CautionList.vue'

/** What is wrong with the setup, what it costs and the one action that mends it. */
defineProps<{ findings: Finding[] | undefined; cautions: Caution[]; empty: boolean }>()
const emit = defineEmits<{ mend: [finding: Finding, copy: boolean]; choose: [device: string] }>()

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
    <p v-else-if="findings.length === 0" class="quiet">
      Nothing wrong was found. Choose a room to see what limits it, or a device for its settings.
    </p>
    <ol v-else>
      <li v-for="own in findings" :key="`${own.rule} ${own.device_id}`">
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
        </p>
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

.link {
  text-decoration: underline;
  color: var(--quiet);
}

i {
  font-style: normal;
}
</style>

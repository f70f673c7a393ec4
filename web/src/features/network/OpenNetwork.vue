<script setup lang="ts">
import { computed, reactive } from 'vue'

import { answer, api, type ApiProblem } from '../../api/client'
import PassPhraseFields from '../../shared/PassPhraseFields.vue'
import { useNetwork } from './useNetwork'

const emit = defineEmits<{ opened: [] }>()

const { network, look } = useNetwork()
const form = reactive({ words: '', again: '', anew: false, problem: '', busy: false })
/** Whether a pass phrase is set here, rather than asked for. */
const first = computed(() => form.anew || !network.value?.pass_phrase_is_set)

async function open() {
  if (form.busy) return
  if (first.value && form.words !== form.again) {
    form.problem = 'The two pass phrases differ. Type them again.'
    return
  }
  form.busy = true
  try {
    const body = { pass_phrase: form.words, anew: form.anew }
    network.value = await answer(api.PUT('/api/network', { body }))
    emit('opened')
  } catch (error) {
    form.problem = (error as ApiProblem).message
  } finally {
    form.busy = false
  }
}
void look()
</script>

<template>
  <p v-if="network && !network.may_change" class="note small">
    No other device can reach this computer yet. Open Busy Hen on the computer that it runs on, and open it to
    the network there.
  </p>
  <form v-else-if="network" class="open" aria-label="Open to the network" @submit.prevent="open">
    <p class="small">
      No phone can reach this computer yet. Open it to the home’s network:
      {{
        first
          ? 'from then on every browser is asked for a pass phrase. Phones need none, they use the code that you show.'
          : 'other browsers are asked for your pass phrase, phones use the code that you show.'
      }}
      It closes again by itself when the last code has expired.
    </p>
    <PassPhraseFields
      v-model:words="form.words"
      v-model:again="form.again"
      :label="first ? 'New pass phrase, 8 characters or more' : 'Your pass phrase'"
      :first="first"
    />
    <div class="row">
      <button
        v-if="network.pass_phrase_is_set"
        type="button"
        class="small link"
        @click="Object.assign(form, { anew: !form.anew, words: '', again: '', problem: '' })"
      >
        {{ form.anew ? 'Use the one you have' : 'Forgotten? Set a new one' }}
      </button>
      <v-btn type="submit" variant="flat" color="primary" :disabled="!form.words || form.busy">
        Open to the network
      </v-btn>
    </div>
    <p v-if="form.problem" class="note bad" role="alert">{{ form.problem }}</p>
    <p v-if="!network.encrypted" class="small quiet">
      The connection is not encrypted: anyone who monitors this network can read it, the pass phrase too. Use
      one that you use nowhere else.
    </p>
  </form>
</template>

<style scoped>
.open {
  display: grid;
  gap: 10px;
}

.open p {
  margin: 0;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}

.row > :last-child {
  margin-left: auto;
}

.link {
  text-decoration: underline;
}
</style>

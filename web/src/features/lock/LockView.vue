<script setup lang="ts">
import { reactive, shallowRef } from 'vue'

import { answer, api, type ApiProblem } from '../../api/client'
import type { LockView } from '../../api/types'
import PassPhraseFields from '../../shared/PassPhraseFields.vue'

const emit = defineEmits<{ open: [] }>()

const lock = shallowRef<LockView>()
const encrypted = window.location.protocol === 'https:'
const form = reactive({ words: '', again: '', problem: '', busy: false })

async function look() {
  try {
    lock.value = await answer(api.GET('/api/lock'))
    if (!lock.value.locked) emit('open')
  } catch (error) {
    form.problem = (error as ApiProblem).message
  }
}

async function send() {
  if (form.busy) return
  if (lock.value?.may_set && form.words !== form.again) {
    form.problem = 'The two are not the same; type them again.'
    return
  }
  form.busy = true
  try {
    const body = { pass_phrase: form.words }
    await answer(lock.value?.may_set ? api.PUT('/api/lock', { body }) : api.POST('/api/lock', { body }))
    Object.assign(form, { words: '', again: '', problem: '' })
    emit('open')
  } catch (error) {
    form.problem = (error as ApiProblem).message
  } finally {
    form.busy = false
  }
}
void look()
</script>

<template>
  <main class="lock">
    <p class="wordmark">Busy <span>Hen</span></p>
    <h1>{{ lock?.may_set ? 'Set a pass phrase' : 'This bench is locked' }}</h1>
    <p v-if="lock?.may_set">
      Other machines reach this bench, so it asks for a pass phrase from now on. Phones get in by the codes
      that the bench shows, to their own round alone.
    </p>
    <p v-else-if="lock && !lock.set">
      No pass phrase is set yet. Open this page on the machine of the bench itself and set one.
    </p>
    <form v-if="lock && (lock.set || lock.may_set)" @submit.prevent="send">
      <PassPhraseFields
        v-model:words="form.words"
        v-model:again="form.again"
        label="Pass phrase"
        :first="lock.may_set"
      />
      <v-btn type="submit" variant="flat" color="primary" :disabled="!form.words || form.busy">
        {{ lock.may_set ? 'Set it' : 'Open' }}
      </v-btn>
    </form>
    <p v-if="form.problem" class="note bad" role="alert">{{ form.problem }}</p>
    <p v-if="!encrypted" class="small quiet">
      The link to this bench is not encrypted: whoever listens in the same network can read along, the pass
      phrase too. Use one that you use nowhere else.
    </p>
  </main>
</template>

<style scoped>
.lock {
  max-width: 420px;
  margin: 12vh auto 0;
  padding: 0 16px;
  display: grid;
  gap: 14px;
}

form {
  display: grid;
  gap: 10px;
}

.wordmark span {
  color: var(--comb);
}
</style>

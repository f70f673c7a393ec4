<script setup lang="ts">
import { useBench } from './useBench'

/** Keys that have no button to be shown at, and the switch that turns single keys off. */
const bench = useBench()

const keys = [
  ['↑ ↓', 'in the ledger: rooms'],
  ['Tab to a device, arrows', 'move it 10 cm or 4 in; with Shift ten times as far'],
  ['PgUp PgDn', 'storeys, on the map; on a device, move it there'],
  ['+ − 0', 'the map nearer, farther, whole'],
  ['Del', 'take the device off'],
  ['Ctrl Z, Ctrl ⇧ Z', 'undo, redo'],
  ['t', 'test the chosen room'],
]
</script>

<template>
  <aside class="help" role="region" aria-label="Keys">
    <p class="small"><b>Keys are shown where they act.</b> Besides those:</p>
    <dl class="small">
      <template v-for="[key, what] in keys" :key="key">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ what }}</dd>
      </template>
    </dl>
    <v-checkbox v-model="bench.keysOn" label="Single keys act" />
    <button type="button" class="small" @click="bench.keysShown = false">Put away <kbd>?</kbd></button>
  </aside>
</template>

<style scoped>
.help {
  position: fixed;
  right: 14px;
  bottom: 14px;
  width: 330px;
  background: #fff;
  border: 1px solid var(--quiet);
  padding: 10px 14px;
  z-index: 20;
}

dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 10px;
  margin: 6px 0;
}

dd {
  margin: 0;
}

button {
  text-decoration: underline;
}
</style>

<script setup lang="ts">
import { useHome } from './useHome'

const home = useHome()

/** A value in few words. */
function words(value: unknown): string {
  if (value === null || value === undefined) return 'taken out'
  if (typeof value === 'string') return value === '' ? 'empty' : value
  if (typeof value === 'object' && 'name' in value) return String(value.name)
  if (typeof value === 'object' && 'x_m' in value && 'y_m' in value) {
    return `${Number(value.x_m).toFixed(2)} m east, ${Number(value.y_m).toFixed(2)} m south`
  }
  return JSON.stringify(value).slice(0, 200)
}

function choose(which: 'mine' | 'theirs') {
  const clash = home.clash.value
  home.clash.value = undefined
  clash?.[which]()
}
</script>

<template>
  <v-dialog
    :model-value="!!home.clash.value"
    aria-label="Changed here and elsewhere"
    persistent
    max-width="620"
  >
    <v-card v-if="home.clash.value" title="Changed here and elsewhere">
      <v-card-text>
        <p v-if="home.clash.value.both.length === 0">
          What you typed was begun on a state that is too old to be brought together with what is stored now.
        </p>
        <table v-else class="sheet">
          <thead>
            <tr>
              <th scope="col">what</th>
              <th scope="col">here</th>
              <th scope="col">elsewhere</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in home.clash.value.both" :key="one.pointer">
              <th scope="row">{{ one.thing }}</th>
              <td class="text">{{ words(one.mine) }}</td>
              <td class="text">{{ words(one.theirs) }}</td>
            </tr>
          </tbody>
        </table>
        <div class="buttons">
          <v-btn @click="choose('theirs')">Take what is there now</v-btn>
          <v-btn variant="flat" color="primary" @click="choose('mine')">Keep what I typed</v-btn>
        </div>
      </v-card-text>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.text {
  white-space: pre-wrap;
  max-width: 230px;
  overflow-wrap: anywhere;
}

th[scope='row'] {
  color: var(--ink);
}

.buttons {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  margin-top: 12px;
}
</style>

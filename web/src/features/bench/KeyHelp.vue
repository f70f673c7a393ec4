<script setup lang="ts">
const open = defineModel<boolean>({ required: true })

const keys = [
  ['g then b h s r c', 'go to Brief, House, Setups, Rounds, Compare'],
  ['j, k', 'next, previous room'],
  ['[ ]', 'previous, next setup'],
  ['m', 'predicted or measured'],
  ['t', 'test the chosen room in the open round'],
  ['Tab to a device, arrows', 'move it 10 cm; with Shift 1 m'],
  ['Delete', 'take the device off the setup'],
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
  ['Ctrl K', 'find a room, setup, device or stop'],
]
</script>

<template>
  <v-dialog v-model="open" aria-label="Keys" max-width="520">
    <v-card title="Keys">
      <v-card-text>
        <table class="sheet">
          <tbody>
            <tr v-for="[key, what] in keys" :key="key">
              <th scope="row">{{ key }}</th>
              <td>{{ what }}</td>
            </tr>
          </tbody>
        </table>
        <div class="buttons"><v-btn @click="open = false">Close</v-btn></div>
      </v-card-text>
    </v-card>
  </v-dialog>
</template>

<style scoped>
th {
  color: var(--ink);
  white-space: nowrap;
}

.buttons {
  text-align: right;
  margin-top: 12px;
}
</style>

<script setup lang="ts">
import { v4 as newId } from 'uuid'
import { ref } from 'vue'

import type { Plan } from '../../api/types'
import NumberField from '../../shared/NumberField.vue'

/** The plans of one line, each from the day on which it holds. */
const plans = defineModel<Plan[]>({ required: true })
const props = defineProps<{ name: string; today: string; lines: { title: string; value: string }[] }>()

/** Whether what a plan usually gives, and costs, is asked for. */
const more = ref(false)

function add() {
  const plan: Plan = { id: newId(), from: props.today, down_mbps: 100, up_mbps: 20, line: 'fibre' }
  plans.value = [...plans.value, plan]
}
function remove(id: string) {
  plans.value = plans.value.filter((own) => own.id !== id)
}
</script>

<template>
  <table class="sheet">
    <thead>
      <tr>
        <th scope="col">in force from</th>
        <th scope="col">down, Mb/s</th>
        <th scope="col">up, Mb/s</th>
        <th scope="col">line</th>
        <th><span class="visually-hidden">remove</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(plan, index) in plans" :key="plan.id">
        <td data-label="in force from">
          <v-text-field v-model="plan.from" type="date" :aria-label="`${name} ${index + 1} in force from`" />
        </td>
        <td data-label="down, Mb/s">
          <NumberField
            :value="plan.down_mbps"
            of="speed"
            :name="`plan ${plan.id} down_mbps`"
            :aria-label="`${name} ${index + 1} down`"
            @change="plan.down_mbps = $event"
          />
        </td>
        <td data-label="up, Mb/s">
          <NumberField
            :value="plan.up_mbps"
            of="speed"
            :name="`plan ${plan.id} up_mbps`"
            :aria-label="`${name} ${index + 1} up`"
            @change="plan.up_mbps = $event"
          />
        </td>
        <td data-label="line">
          <v-select v-model="plan.line" :items="lines" :aria-label="`${name} ${index + 1} line`" />
        </td>
        <td>
          <v-btn
            size="small"
            variant="text"
            :aria-label="`Remove ${name.toLowerCase()} ${index + 1}`"
            @click="remove(plan.id)"
          >
            Remove
          </v-btn>
        </td>
      </tr>
    </tbody>
  </table>
  <div>
    <v-btn size="small" @click="add">Add a plan</v-btn>
    <v-btn v-if="plans.length > 0" size="small" variant="text" :aria-expanded="more" @click="more = !more">
      {{ more ? 'Less' : 'What it usually gives, and costs' }}
    </v-btn>
  </div>
  <table v-if="more" class="sheet">
    <thead>
      <tr>
        <th scope="col">plan from</th>
        <th scope="col">usually down, Mb/s</th>
        <th scope="col">usually up, Mb/s</th>
        <th scope="col">a month, own currency</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(plan, index) in plans" :key="plan.id">
        <td data-label="plan from">{{ plan.from }}</td>
        <td data-label="usually down, Mb/s">
          <NumberField
            :value="plan.usual_down_mbps"
            of="speed"
            :name="`plan ${plan.id} usual_down_mbps`"
            :aria-label="`${name} ${index + 1} usually down`"
            optional
            @clear="plan.usual_down_mbps = null"
            @change="plan.usual_down_mbps = $event"
          />
        </td>
        <td data-label="usually up, Mb/s">
          <NumberField
            :value="plan.usual_up_mbps"
            of="speed"
            :name="`plan ${plan.id} usual_up_mbps`"
            :aria-label="`${name} ${index + 1} usually up`"
            optional
            @clear="plan.usual_up_mbps = null"
            @change="plan.usual_up_mbps = $event"
          />
        </td>
        <td data-label="a month, own currency">
          <NumberField
            :value="plan.price_a_month"
            of="money"
            :name="`plan ${plan.id} price_a_month`"
            :aria-label="`${name} ${index + 1} price a month`"
            optional
            @clear="plan.price_a_month = null"
            @change="plan.price_a_month = $event"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

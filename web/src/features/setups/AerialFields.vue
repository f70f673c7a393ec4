<script setup lang="ts">
import type { Aerial } from '../../api/types'
import NumberField from '../../shared/NumberField.vue'

defineProps<{ aerial: Aerial }>()
const emit = defineEmits<{ change: [aerial: Aerial] }>()

const kinds: { title: string; value: Aerial['kind'] }[] = [
  { title: 'inside, alike all round', value: 'built_in' },
  { title: 'rods', value: 'rods' },
  { title: 'panel that looks one way', value: 'sector' },
]

function choose(kind: Aerial['kind']) {
  if (kind === 'rods') emit('change', { kind, gain_dbi: 5, lean: 0, towards: 0 })
  else if (kind === 'sector') emit('change', { kind, gain_dbi: 10, width: 65, height: 35, towards: 0 })
  else emit('change', { kind: 'built_in' })
}
</script>

<template>
  <v-select :model-value="aerial.kind" :items="kinds" label="Aerials" @update:model-value="choose" />
  <template v-if="aerial.kind !== 'built_in'">
    <NumberField
      :value="aerial.gain_dbi"
      of="gain"
      label="Gain, dBi"
      @change="emit('change', { ...aerial, gain_dbi: $event })"
    />
    <NumberField
      v-if="aerial.kind === 'rods'"
      :value="aerial.lean"
      of="angle"
      label="Lean, °"
      @change="emit('change', { ...aerial, lean: $event })"
    />
    <template v-else>
      <NumberField
        :value="aerial.width"
        of="angle"
        label="Beam width, °"
        @change="emit('change', { ...aerial, width: $event })"
      />
      <NumberField
        :value="aerial.height"
        of="angle"
        label="Beam height, °"
        @change="emit('change', { ...aerial, height: $event })"
      />
    </template>
    <NumberField
      :value="aerial.towards"
      of="angle"
      label="Towards, ° (0 is north)"
      @change="emit('change', { ...aerial, towards: $event })"
    />
  </template>
</template>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Tracing } from '../../api/types'

const props = defineProps<{ tracing: Tracing }>()
const address = computed(() => `/api/pictures/${props.tracing.picture_id}`)
/** How high the picture is for its width; known once it is loaded. */
const shape = ref(0.75)
watch(
  address,
  (now) => {
    const image = new Image()
    image.onload = () => (shape.value = image.naturalHeight / image.naturalWidth)
    image.src = now
  },
  { immediate: true },
)
const height = computed(() => props.tracing.width_m * shape.value)
</script>

<template>
  <image
    :href="address"
    :x="tracing.x_m - tracing.width_m / 2"
    :y="tracing.y_m - height / 2"
    :width="tracing.width_m"
    :height="height"
    :opacity="tracing.shows_part"
    :transform="`rotate(${tracing.turned} ${tracing.x_m} ${tracing.y_m})`"
    preserveAspectRatio="none"
    pointer-events="none"
    aria-hidden="true"
  />
</template>

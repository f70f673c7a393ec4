<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Drawing } from '../../api/types'

const props = defineProps<{ faults: Drawing['faults']; chosen: number; example: string }>()
const lines = defineModel<string>({ required: true })

const scrolled = ref(0)
const rows = computed(() => {
  const texts = lines.value.split('\n')
  return texts.map((text, index) => {
    const fault = props.faults.find((own) => own.line === index)
    if (!fault) return { before: text, wrong: '', after: '', chosen: index === props.chosen }
    const chars = [...text]
    return {
      before: chars.slice(0, fault.from).join(''),
      wrong: chars.slice(fault.from, fault.to).join(''),
      after: chars.slice(fault.to).join(''),
      chosen: index === props.chosen,
    }
  })
})
</script>

<template>
  <div class="editor">
    <div class="under" aria-hidden="true">
      <pre :style="{ transform: `translateY(${-scrolled}px)` }"><span
        v-for="(row, index) in rows"
        :key="index"
        class="row"
        :class="{ chosen: row.chosen }"
      >{{ row.before }}<mark v-if="row.wrong">{{ row.wrong }}</mark>{{ row.after }}{{ '\n' }}</span></pre>
    </div>
    <textarea
      id="house-lines"
      v-model="lines"
      spellcheck="false"
      wrap="off"
      aria-label="Rooms of this level, one line each"
      aria-describedby="house-faults"
      :placeholder="example"
      @scroll="scrolled = ($event.target as HTMLTextAreaElement).scrollTop"
    />
  </div>
  <ul id="house-faults" aria-live="polite">
    <li v-for="fault in faults" :key="`${fault.line} ${fault.from}`">
      <b>Line {{ fault.line + 1 }}:</b> {{ fault.message }}
    </li>
  </ul>
</template>

<style scoped>
.editor {
  position: relative;
  border: 1px solid var(--quiet);
  background: #fff;
  height: 264px;
}

.under,
textarea {
  position: absolute;
  inset: 0;
  padding: 8px 10px;
  overflow: hidden;
}

pre,
textarea {
  font-family: var(--text);
  font-size: 0.9rem;
  line-height: 1.55;
  white-space: pre;
  margin: 0;
}

pre {
  color: transparent;
}

textarea {
  width: 100%;
  height: 100%;
  resize: none;
  background: transparent;
  overflow: auto;
  border: 0;
}

.row.chosen {
  background: var(--select);
}

mark {
  color: transparent;
  background: #f6d3cf;
  border-bottom: 2px solid var(--comb);
}

ul {
  list-style: none;
  padding: 0;
  font-size: 0.85rem;
  color: var(--comb);
}
</style>

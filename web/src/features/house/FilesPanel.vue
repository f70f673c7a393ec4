<script setup lang="ts">
import { ref } from 'vue'

import { answer, api, ApiProblem } from '../../api/client'
import { useHouse } from './useHouse'

const house = useHouse()
const picker = ref<HTMLInputElement | null>(null)
const told = ref('')
const at = (ending: string) => `/api/homes/${house.home.id}/house.${ending}`
const drawing = () => `${at('svg')}?level=${house.level.value?.id ?? ''}`
/** Dots an inch of paper in a picture. */
const DOTS = 200

async function take(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file || !(await house.draft.flush())) return
  const text = await file.text()
  const revision = house.home.view.value?.revision ?? 0
  try {
    const view = await answer(
      api.PUT('/api/homes/{home}/house-text', {
        params: { path: { home: house.home.id }, header: { 'If-Match': `"${revision}"` } },
        body: { text },
      }),
    )
    house.home.take(view)
    told.value = `${file.name} was taken in; Undo brings back what there was.`
  } catch (error) {
    const faults = error instanceof ApiProblem ? error.faults : []
    told.value = `${file.name} was not taken in, nothing was changed. ${faults[0]?.message ?? (error as Error).message}`
  }
}

/** The drawing as a picture: the same file, painted. */
async function savePicture() {
  const text = await (await fetch(drawing())).text()
  const size = /width="([\d.]+)mm" height="([\d.]+)mm"/.exec(text)
  const [width, height] = [Number(size?.[1] ?? 100), Number(size?.[2] ?? 100)]
  const image = new Image()
  await new Promise((done, failed) => {
    image.onload = done
    image.onerror = failed
    image.src = URL.createObjectURL(new Blob([text], { type: 'image/svg+xml' }))
  })
  const canvas = document.createElement('canvas')
  canvas.width = Math.round((width / 25.4) * DOTS)
  canvas.height = Math.round((height / 25.4) * DOTS)
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
  URL.revokeObjectURL(image.src)
  const link = document.createElement('a')
  link.download = `${house.level.value?.name ?? 'level'}.png`
  link.href = canvas.toDataURL('image/png')
  link.click()
}

/** Prints the drawing of the level alone, to scale. */
async function print() {
  const text = await (await fetch(drawing())).text()
  const frame = document.createElement('iframe')
  frame.title = 'Drawing to print'
  frame.style.cssText = 'position: fixed; width: 0; height: 0; border: 0'
  frame.srcdoc = `<style>@page { margin: 10mm } body { margin: 0 }</style>${text}`
  frame.onload = () => {
    frame.contentWindow?.addEventListener('afterprint', () => frame.remove())
    frame.contentWindow?.print()
  }
  document.body.append(frame)
}
</script>

<template>
  <div class="files">
    <div>
      <h3>Lines</h3>
      <p class="small quiet">The whole house as plain text: it comes back in without loss.</p>
      <a class="link" :href="at('txt')" download>House lines out</a>
      <v-btn size="small" @click="picker?.click()">House lines in…</v-btn>
      <input
        ref="picker"
        type="file"
        accept=".txt,text/plain"
        class="visually-hidden"
        tabindex="-1"
        aria-label="House lines file"
        @change="take"
      />
    </div>
    <div>
      <h3>Drawing of {{ house.level.value?.name }}</h3>
      <p class="small quiet">To scale on A4, with sizes and areas.</p>
      <a class="link" :href="drawing()" download>SVG</a>
      <v-btn size="small" @click="savePicture">PNG</v-btn>
      <v-btn size="small" @click="print">Print</v-btn>
    </div>
    <div>
      <h3>Levels for other programs</h3>
      <p class="small quiet">GeoJSON in metres of the house’s own plane, not degrees on the globe.</p>
      <a class="link" :href="at('geojson')" download>GeoJSON</a>
    </div>
    <p v-if="told" class="wide small" role="status">{{ told }}</p>
  </div>
</template>

<style scoped>
.files {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 16px;
}

h3 {
  font-size: 0.95rem;
  margin: 0;
}

p {
  margin: 2px 0 8px;
}

.link {
  margin-right: 10px;
}

.wide {
  grid-column: 1 / -1;
}

@media (max-width: 700px) {
  .files {
    grid-template-columns: 1fr;
  }
}
</style>

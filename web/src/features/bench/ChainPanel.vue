<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'

import { answer, api } from '../../api/client'
import type { ChainLink, ChainView } from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { speed } from '../../shared/words'
import { useBench } from './useBench'
import { useHome } from './useHome'

const emit = defineEmits<{ cable: [device: string] }>()

const bench = useBench()
const home = useHome()
const view = shallowRef<ChainView>()

const row = computed(() => bench.ledger.find((own) => own.room_id === bench.roomId))

const explain = useLatest(async () => {
  const spot = row.value?.spot_id
  const setup = bench.setupId
  if (!spot || !setup) {
    view.value = undefined
    return
  }
  try {
    view.value = await answer(
      api.POST('/api/homes/{home}/setups/{setup}/chain', {
        params: { path: { home: home.id, setup } },
        body: { ask: bench.ask, spot_id: spot, moved: bench.moved ?? null },
      }),
    )
  } catch (error) {
    home.failOfSetup(error)
  }
})
watch([row, () => bench.setupId, () => bench.ask], () => explain(undefined), { immediate: true })

const isBusy = computed(() => bench.situation !== 'alone')

/** How people would call it (ITU-T P.800's five words), with the figure of the scale of 1 to 4.5. */
function opinion(call: { opinion: number } | null | undefined): string {
  if (!call) return 'not at all'
  const word = ['bad', 'poor', 'fair', 'good', 'excellent'][Math.round(call.opinion) - 1] ?? 'excellent'
  return `${word} (${call.opinion.toFixed(1)} of 4.5)`
}

/** Whether mending this link alone would let noticeably more arrive. */
const gains = (link: ChainLink) =>
  speed(link.mended_down_mbps) !== speed(view.value?.chain?.arrives_down_mbps)

/** Height of a pipe for what flows through it: each doubling is one step, so that 3 and 900 both show. */
function height(mbps: number | null | undefined): number {
  if (mbps === null || mbps === undefined) return 64
  return 6 + Math.min(58, Math.max(0, Math.log2(Math.max(mbps, 0.5) / 0.5) * 5))
}
</script>

<template>
  <section v-if="row" aria-label="Chain to the room">
    <h2>
      {{ row.name }}
      <small v-if="view?.chain">
        {{ speed(view.prediction.down.middle) }} Mb/s down, {{ speed(view.prediction.up.middle) }} up,
        {{ view.prediction.latency_ms.toFixed(0) }} ms idle, {{ view.prediction.loaded_ms.toFixed(0) }} ms
        under load<template v-if="row.need"
          >; judged {{ isBusy ? 'under load in the busy evening' : 'idle when alone' }}: at most
          {{ row.need.latency_ms.toFixed(0) }} ms</template
        >; a call sounds {{ opinion(isBusy ? view.prediction.loaded_call : view.prediction.call) }}
      </small>
    </h2>
    <template v-if="view?.chain">
      <ol>
        <li
          v-for="(link, index) in view.chain.links"
          :key="index"
          :class="{ limiting: index === view.chain.limiting, next: index === view.chain.runner_up }"
        >
          <div class="pipe">
            <b :style="{ height: `${height(link.down_mbps)}px` }">
              <span>{{ speed(link.down_mbps) }}</span>
            </b>
          </div>
          <strong>{{ link.label }}</strong>
          <span class="detail">{{ link.detail }}</span>
          <span v-if="link.likely_down_mbps" class="detail likely">
            likely {{ speed(link.likely_down_mbps.poor) }}–{{ speed(link.likely_down_mbps.good) }}
          </span>
          <button
            v-if="link.device_id && link.kind !== 'cable' && gains(link)"
            type="button"
            class="detail whatif"
            @click="emit('cable', link.device_id)"
          >
            give it a cable: {{ speed(link.mended_down_mbps) }}
          </button>
          <span v-else-if="gains(link)" class="detail"
            >mended: {{ speed(link.mended_down_mbps) }} arrive</span
          >
          <em v-if="index === view.chain.limiting">limiting link</em>
          <em v-else-if="index === view.chain.runner_up">next limit</em>
        </li>
        <li class="arrives">
          <div class="pipe">
            <b :style="{ height: `${height(view.chain.arrives_down_mbps)}px` }">
              <span>{{ speed(view.chain.arrives_down_mbps) }}</span>
            </b>
          </div>
          <strong>arrives</strong>
          <span class="detail">{{
            row.need ? `needs ${speed(row.need.down_mbps)} Mb/s` : 'no need noted'
          }}</span>
        </li>
      </ol>
      <p>{{ view.chain.in_words }}</p>
      <p v-if="view.prediction.served" class="quiet">
        Likely, 10 to 90 %: {{ speed(view.prediction.down.poor) }} to
        {{ speed(view.prediction.down.good) }} Mb/s arrive, heard at
        {{ view.prediction.served.poor_signal_dbm.toFixed(0) }} to
        {{ view.prediction.served.good_signal_dbm.toFixed(0) }} dBm, link rate
        {{ speed(view.prediction.served.poor_link_rate_mbps) }} to
        {{ speed(view.prediction.served.good_link_rate_mbps) }} Mb/s.
      </p>
    </template>
    <p v-else-if="view && row.no_port" class="quiet">
      No device with a port stands here. Choose a room with one, or test by air.
    </p>
    <p v-else-if="view" class="quiet">
      No radio of this setup is heard here. Place a device nearer, or switch one on that serves this band.
    </p>
  </section>
</template>

<style scoped>
.whatif {
  text-decoration: underline;
}

h2 small {
  font-family: var(--text);
  font-weight: 400;
  font-size: 0.82rem;
  color: var(--quiet);
  margin-left: 8px;
}

ol {
  list-style: none;
  display: flex;
  gap: 3px;
  padding: 0;
  margin: 4px 0 6px;
}

li {
  flex: 1 1 0;
  min-width: 0;
  font-size: 0.78rem;
  line-height: 1.2;
}

.pipe {
  height: 66px;
  display: flex;
  align-items: center;
}

.pipe b {
  width: 100%;
  background: #d9d0bd;
  display: flex;
  align-items: center;
  justify-content: center;
  position: relative;
}

.pipe span {
  font-size: 0.85rem;
  background: rgb(255 255 255 / 70%);
  padding: 0 4px;
}

.limiting .pipe b {
  background: var(--comb);
}

.next .pipe b {
  background: #e0b667;
}

.arrives .pipe b {
  background: var(--ink);
}

li strong {
  display: block;
  font-weight: 600;
}

.detail {
  display: block;
  color: var(--quiet);
}

em {
  font-style: normal;
  font-weight: 600;
  color: var(--comb);
}

.next em {
  color: var(--yolk);
}

p {
  margin: 0;
  font-size: 0.88rem;
}

@media (max-width: 900px) {
  ol {
    flex-direction: column;
  }

  .pipe {
    height: auto;
    max-height: 40px;
  }
}
</style>

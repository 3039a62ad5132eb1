<script setup lang="ts">
import { duration } from '#core/text/duration'
import { listRuns } from '#shared/api/bridges'
import { listWhole } from '#shared/api/lists'
import type { BridgeRun, RunOutcome } from '#shared/bridges/status'

/** The last runs of a bridge on a time axis: height is how long each took; pressed, it tells what it was made of. */
const props = defineProps<{ bridgeId: number }>()

const minutes = 10
const [width, height] = [1200, 92]
const runs = shallowRef<BridgeRun[]>([])
const now = ref(Date.now())
const chosen = ref<number | null>(null)
const loaded = ref(false)

useRepeated(async () => {
  const found = await callApi(listRuns, { params: { id: props.bridgeId }, query: { limit: listWhole } }).catch(() => null)
  if (!found) return
  runs.value = found.items
  now.value = Date.now()
  loaded.value = true
}, 1000)

const shown = computed(() => runs.value.filter(({ at }) => at > now.value - minutes * 60_000))
const sound = computed(() =>
  shown.value.flatMap(({ ms, outcome }) => (ms === null || outcome !== 'sent' ? [] : [ms])).sort((a, b) => a - b),
)
const percentile = (share: number) => sound.value[Math.min(sound.value.length - 1, Math.floor(sound.value.length * share))] ?? null
const tallest = computed(() => Math.max(1, sound.value.at(-1) ?? 1))
const ms = (value: number | null) => (value === null ? '—' : value < 10 ? `${value.toFixed(1)} ms` : duration(Math.round(value)))

const colour: Record<RunOutcome, string> = {
  ...{ sent: 'flowing', 'under way': 'waiting', kept: 'late', skipped: 'late', dropped: 'broken', failed: 'broken', refused: 'broken' },
}
const bars = computed(() =>
  shown.value.map((run) => ({
    number: run.number,
    x: width - ((now.value - run.at) / (minutes * 60_000)) * width,
    height: run.ms === null ? 14 : Math.max(4, (run.ms / tallest.value) * (height - 18)),
    state: colour[run.outcome],
  })),
)
const ticks = computed(() =>
  Array.from({ length: minutes + 1 }, (_, i) => {
    const at = Math.floor(now.value / 60_000) * 60_000 - (minutes - i) * 60_000 + 60_000
    return { x: width - ((now.value - at) / (minutes * 60_000)) * width, text: new Date(at).toTimeString().slice(0, 5) }
  }).filter(({ x }) => x >= 0 && x <= width - 20),
)
const run = computed(() => runs.value.find(({ number }) => number === chosen.value) ?? runs.value.at(-1) ?? null)
const clock = (at: number) => {
  const date = new Date(at)
  return `${date.toTimeString().slice(0, 8)}.${String(date.getMilliseconds()).padStart(3, '0')}`
}
const failures = computed(() =>
  runs.value
    .filter(({ outcome }) => ['failed', 'refused', 'skipped', 'dropped'].includes(outcome))
    .slice(-8)
    .reverse(),
)
</script>

<template>
  <section class="block" aria-label="Runs">
    <div class="head">
      <h2 class="sheet-title">Runs, last {{ minutes }} minutes</h2>
      <span v-if="sound.length" class="quiet">height is duration · p50 {{ ms(percentile(0.5)) }} · p99 {{ ms(percentile(0.99)) }}</span>
    </div>
    <div class="sheet runs">
      <p v-if="loaded && runs.length === 0" class="quiet none">It has not run yet since it was switched on.</p>
      <template v-else>
        <svg
          :viewBox="`0 0 ${width} ${height + 18}`"
          preserveAspectRatio="none"
          role="img"
          :aria-label="`${shown.length} runs in ten minutes`"
        >
          <line x1="0" :y1="height" :x2="width" :y2="height" class="axis" />
          <g v-for="bar in bars" :key="bar.number">
            <rect
              :x="bar.x - 3"
              :y="height - bar.height"
              width="6"
              :height="bar.height"
              :class="[bar.state, { chosen: bar.number === run?.number }]"
              @click="chosen = bar.number"
            >
              <title>Run {{ bar.number }}</title>
            </rect>
          </g>
        </svg>
        <div class="ticks" aria-hidden="true">
          <span v-for="tick in ticks" :key="tick.text" class="mono quiet" :style="{ left: `${(tick.x / width) * 100}%` }">{{
            tick.text
          }}</span>
        </div>
      </template>
      <div v-if="run" class="one">
        <strong class="mono">{{ clock(run.at) }}</strong>
        <span class="quiet">run {{ run.number }} by {{ run.by }}</span>
        <span v-for="input in run.inputs" :key="input.name" class="mono" :class="{ 'is-late': !input.good }"
          >{{ input.name }} {{ input.text }}</span
        >
        <span class="quiet">shaped in {{ ms(run.shapeMs) }}</span>
        <span v-for="(sent, i) in run.sent" :key="i" class="sent">
          <span :class="`is-${colour[sent.outcome]}`">{{ sent.outcome }}</span>
          <span v-if="sent.ms !== null" class="quiet"> in {{ ms(sent.ms) }}</span>
          <span class="mono"> {{ sent.text }}</span>
        </span>
        <span v-if="run.fault" :class="`is-${colour[run.outcome]}`">{{ run.fault.what }} {{ run.fault.next }}</span>
      </div>
    </div>
    <template v-if="failures.length">
      <h2 class="sheet-title second">Runs that did not arrive</h2>
      <div class="sheet">
        <table class="rows" aria-label="Runs that did not arrive">
          <tbody>
            <tr
              v-for="one in failures"
              :key="one.number"
              class="opens"
              tabindex="0"
              @click="chosen = one.number"
              @keydown.enter="chosen = one.number"
            >
              <td class="mono">{{ clock(one.at) }}</td>
              <td :class="`is-${colour[one.outcome]}`">{{ one.outcome }}</td>
              <td class="mono">{{ one.by }}</td>
              <td>{{ one.fault?.what }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>

<style scoped>
.block {
  margin-top: 18px;
}
.head {
  display: flex;
  justify-content: space-between;
  margin-bottom: 6px;
}
.second {
  margin: 14px 0 6px;
}
.runs {
  padding: 12px 14px;
}
.none {
  margin: 0;
}
svg {
  display: block;
  width: 100%;
  height: 110px;
}
.axis {
  stroke: var(--line);
}
rect {
  cursor: pointer;
}
rect.flowing {
  fill: var(--flow);
}
rect.late {
  fill: var(--copper);
}
rect.broken {
  fill: var(--break);
}
rect.waiting {
  fill: var(--capped);
}
rect.chosen {
  stroke: var(--ink);
  stroke-width: 1.5;
}
.ticks {
  position: relative;
  height: 16px;
  margin-top: -16px;
  font-size: 11px;
}
.ticks span {
  position: absolute;
}
.one {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-top: 12px;
  padding-top: 10px;
  border-top: 1px solid var(--line-soft);
  overflow-wrap: anywhere;
}
</style>

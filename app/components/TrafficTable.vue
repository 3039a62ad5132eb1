<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import type { linkTraffic } from '#shared/api/links'
import type { outletTraffic } from '#shared/api/outlets'
import { bytesLine, bytesLines } from '#core/text/bytesText'
import { counted } from '#core/text/counted'
import { decoderFor } from '#core/traffic/decode'
import { clockText } from '#core/text/moment'

/** What passes at the connections of one link or outlet, frame by frame. */
/** @prop kind of the link or outlet @prop asks whether what we send goes to somebody who answers */
const props = defineProps<{ operation: typeof linkTraffic | typeof outletTraffic; id: number; kind: string; asks: boolean }>()
const { frames, connections, lost, paused, refused, clear, goOn } = useTraffic(props.operation, props.id, {
  kind: props.kind,
  asks: props.asks,
})
const { copied, copy } = useCopy()
const rowHeight = 26
const lineBytes = 28
const chosen = ref<number | null>(null)
const only = ref<number | null>(null)

const shown = computed(() => (only.value === null ? frames.value : frames.value.filter(({ connection }) => connection === only.value)))
const picked = computed(() => shown.value.find(({ n }) => n === chosen.value) ?? null)
const choices = computed(() => connections.value.map(({ id, peer }) => ({ value: id, title: `${id}  ${peer}` })))
const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: shown.value.length, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 12 })),
)
const rows = computed(() => virtual.value.getVirtualItems())

/** The newest stay in view until somebody scrolls up or chooses one. */
const follows = ref(true)
const scrolled = () => {
  const { scrollTop, clientHeight, scrollHeight } = scroller.value!
  follows.value = scrollHeight - scrollTop - clientHeight < 2 * rowHeight
}
watch(shown, async (all) => {
  if (!follows.value || chosen.value !== null) return
  await nextTick()
  virtual.value.scrollToIndex(all.length - 1)
})
const step = (by: number) => {
  const at = shown.value.findIndex(({ n }) => n === chosen.value)
  const next = Math.max(0, Math.min(shown.value.length - 1, at < 0 ? shown.value.length - 1 : at + by))
  chosen.value = shown.value[next]?.n ?? null
  virtual.value.scrollToIndex(next)
}
const text = () =>
  shown.value
    .map(
      ({ at, out, connection, length, data, told }) =>
        `${new Date(at).toISOString()} ${out ? '>' : '<'} ${connection} ${length} ${bytesLine(data, data.length)}${told ? `  ${told.summary}` : ''}`,
    )
    .join('\n')
</script>

<template>
  <FaultNote v-if="refused" :fault="refused.why" />
  <div class="bar">
    <v-btn v-if="paused" variant="flat" @click="goOn">Go on</v-btn>
    <v-btn v-else @click="paused = true">Pause</v-btn>
    <v-btn :disabled="frames.length === 0" @click="clear">Clear</v-btn>
    <v-btn :disabled="shown.length === 0" @click="saveTextFile('traffic.txt', text())">Save as text</v-btn>
    <v-select v-model="only" class="which" :items="choices" placeholder="every connection" aria-label="Connection" clearable />
    <span class="quiet" role="status"
      >{{ counted(frames.length, 'frame')
      }}<template v-if="lost">
        · <span class="is-late">{{ counted(lost, 'frame') }} passed too fast to be shown</span></template
      ><template v-if="paused"> · paused</template></span
    >
  </div>
  <section class="sheet list">
    <div class="table" role="table" aria-label="Traffic" :aria-rowcount="shown.length">
      <div class="columns header" role="row">
        <span role="columnheader">Time</span><span role="columnheader">Way</span><span role="columnheader" class="right">Conn.</span
        ><span role="columnheader" class="right">Length</span><span role="columnheader">{{ decoderFor(kind) ? 'What' : 'Bytes' }}</span>
      </div>
      <div
        ref="scroller"
        class="scroller"
        tabindex="0"
        role="rowgroup"
        @scroll="scrolled"
        @keydown.down.prevent="step(1)"
        @keydown.up.prevent="step(-1)"
        @keydown.esc="chosen = null"
      >
        <div v-if="shown.length === 0" role="row" class="quiet nothing">
          <span role="cell">Nothing passed since this page was opened.</span>
        </div>
        <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
          <div
            v-for="row in rows"
            :key="shown[row.index]!.n"
            class="columns slot"
            role="row"
            :class="{ chosen: shown[row.index]!.n === chosen }"
            :style="{ transform: `translateY(${row.start}px)` }"
            @click="chosen = shown[row.index]!.n"
          >
            <span role="cell" class="mono">{{ clockText(shown[row.index]!.at) }}</span>
            <span role="cell" :class="shown[row.index]!.out ? 'out' : 'in'">{{ shown[row.index]!.out ? 'sent' : 'came' }}</span>
            <span role="cell" class="right">{{ shown[row.index]!.connection }}</span>
            <span role="cell" class="right">{{ shown[row.index]!.length }}</span>
            <span v-if="shown[row.index]!.told" role="cell" class="cut" :class="`was-${shown[row.index]!.told!.outcome}`">{{
              shown[row.index]!.told!.summary
            }}</span>
            <span v-else role="cell" class="mono cut">{{ bytesLine(shown[row.index]!.data, lineBytes) }}</span>
          </div>
        </div>
      </div>
    </div>
    <div v-if="picked" class="bytes">
      <div class="bar">
        <strong>{{ picked.out ? 'Sent' : 'Came' }} at {{ clockText(picked.at) }}</strong>
        <span class="quiet"
          >{{ counted(picked.length, 'byte')
          }}<template v-if="picked.data.length < picked.length">, the first {{ picked.data.length }} shown</template></span
        >
        <span class="fill" />
        <v-btn height="24" @click="copy(bytesLines(picked.data))">{{ copied ? 'Copied' : 'Copy' }}</v-btn>
        <v-btn height="24" @click="chosen = null">Close</v-btn>
      </div>
      <FrameFields v-if="picked.told" :fields="picked.fields" :data="picked.data" />
      <pre v-else class="mono" tabindex="0">{{ bytesLines(picked.data) }}</pre>
    </div>
  </section>
</template>

<style scoped>
.table {
  display: contents;
}
.bar {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-bottom: 10px;
}
.which {
  max-width: 230px;
}
.list {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.columns {
  display: grid;
  grid-template-columns: 110px 48px 52px 64px minmax(0, 1fr);
  gap: 12px;
  padding: 0 12px;
  align-items: center;
}
.header {
  padding-block: 7px;
  border-bottom: 1px solid var(--line);
  color: var(--quiet);
  font-weight: 500;
}
.scroller {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.slot {
  position: absolute;
  inset-inline: 0;
  top: 0;
  height: 26px;
  cursor: pointer;
}
.slot:hover {
  background: rgba(var(--v-theme-on-surface), 0.03);
}
.chosen,
.chosen:hover {
  background: var(--tint);
}
.right {
  text-align: right;
}
.in {
  color: var(--flow);
}
.out {
  color: var(--copper);
}
.was-refused {
  color: var(--break);
}
.was-odd {
  color: var(--copper);
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.nothing {
  padding: 10px 12px;
}
.bytes {
  border-top: 1px solid var(--line);
  padding: 10px 12px;
}
.bytes pre {
  max-height: 200px;
  margin: 0;
  overflow: auto;
  font-size: 12.5px;
}
</style>

<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import type { FrameRow } from '#core/traffic/frameBook'
import { microText } from '#core/text/moment'

/**
 * Frames between two uprights, ours and theirs. Any number of them: only those in view are there. The newest stay in view
 * until somebody scrolls up or chooses one.
 */
const props = defineProps<{
  /** Those that were fetched, from this place on. */
  rows: readonly FrameRow[]
  from: number
  total: number
  /** The frame that is opened. */
  chosen: FrameRow | null
  left: string
  right: string
  follows: boolean
}>()
const emit = defineEmits<{ show: [first: number, count: number]; choose: [n: number | null] }>()
const rowHeight = 28
/** Browsers know no higher elements than some ten million pixels: beyond that a pixel is more than a row. */
const mostHeight = 8_000_000
const scroller = ref<HTMLElement | null>(null)
const { height: view } = useElementSize(scroller)
const top = ref(0)

const height = computed(() => Math.min(props.total * rowHeight, mostHeight))
const isScaled = computed(() => props.total * rowHeight > mostHeight)
const inView = computed(() => Math.floor(view.value / rowHeight))
const first = computed(() => {
  if (!isScaled.value) return Math.floor(top.value / rowHeight)
  return Math.round((top.value / Math.max(1, height.value - view.value)) * (props.total - inView.value))
})
const shift = computed(() => (isScaled.value ? 0 : -(top.value % rowHeight)))
const slots = computed(() =>
  Array.from({ length: Math.min(inView.value + 2, Math.max(0, props.total - first.value)) }, (_, i) => ({
    place: first.value + i,
    y: i * rowHeight + shift.value,
    row: props.rows[first.value + i - props.from],
  })),
)
watch([first, inView], () => emit('show', first.value, inView.value + 2), { immediate: true })

const atEnd = ref(true)
const scrolled = () => {
  const { scrollTop, clientHeight, scrollHeight } = scroller.value!
  top.value = scrollTop
  atEnd.value = scrollHeight - scrollTop - clientHeight < 2 * rowHeight
}
watch(
  () => props.total,
  async () => {
    if (!props.follows || !atEnd.value || props.chosen) return
    await nextTick()
    if (scroller.value) scroller.value.scrollTop = scroller.value.scrollHeight
  },
)
const step = (by: number) => {
  const at = props.rows.findIndex(({ n }) => n === props.chosen?.n)
  const next = at < 0 ? props.rows[Math.max(0, first.value - props.from)] : props.rows[at + by]
  if (!next) return
  emit('choose', next.n)
  const place = props.from + props.rows.indexOf(next)
  const { value: box } = scroller
  if (!box || isScaled.value) return
  if (place < first.value + 1) box.scrollTop = place * rowHeight
  else if (place > first.value + inView.value - 2) box.scrollTop = (place - inView.value + 2) * rowHeight
}
const isPartner = ({ n }: FrameRow) => props.chosen?.partner === n
const wayText = ({ out }: FrameRow) => (out ? 'sent' : 'came')
</script>

<template>
  <div class="table" role="table" aria-label="Frames" :aria-rowcount="total">
    <div class="columns header" role="row">
      <span role="columnheader">Time</span>
      <span role="columnheader" class="ends">
        <strong>{{ left }}</strong>
        <strong>{{ right }}</strong>
      </span>
      <span role="columnheader">What</span>
      <span role="columnheader" class="right">Answer</span>
      <span role="columnheader" class="right">Length</span>
    </div>
    <div
      ref="scroller"
      class="scroller"
      tabindex="0"
      role="rowgroup"
      @scroll="scrolled"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.esc="emit('choose', null)"
    >
      <div v-if="total === 0" role="row" class="quiet nothing"><slot name="nothing" /></div>
      <div v-else :style="{ height: `${height}px` }">
        <div class="window" :style="{ height: `${view}px` }">
          <div
            v-for="{ place, y, row } in slots"
            :key="place"
            class="columns slot"
            role="row"
            :class="row && { chosen: row.n === chosen?.n, partner: isPartner(row), [`was-${row.outcome}`]: true }"
            :style="{ transform: `translateY(${y}px)` }"
            @click="row && emit('choose', row.n)"
          >
            <template v-if="row">
              <span role="cell" class="mono time">{{ microText(row.at) }}</span>
              <span role="cell" class="way">
                <svg width="216" height="28" viewBox="0 0 216 28" aria-hidden="true">
                  <path d="M12 0V28" class="ours" />
                  <path d="M204 0V28" class="theirs" />
                  <path
                    :d="row.out ? 'M12 9L204 18' : 'M204 9L12 18'"
                    class="passage"
                    :stroke-dasharray="row.outcome === 'unanswered' ? '6 5' : undefined"
                  />
                  <circle :cx="row.out ? 204 : 12" cy="18" r="3.5" class="arrival" />
                </svg>
                <span class="visually-hidden">{{ wayText(row) }}</span>
              </span>
              <span role="cell" class="cut" :title="row.summary"
                >{{ row.summary }}<template v-if="row.outcome === 'unanswered'"> — no answer</template
                ><span v-if="row.asked" class="asked"> ← {{ row.asked }}</span></span
              >
              <span role="cell" class="right quiet">{{
                row.role === 'answer' && row.answerMs !== null ? `${row.answerMs.toFixed(1)} ms` : ''
              }}</span>
              <span role="cell" class="right quiet mono">{{ row.length.toLocaleString('en-GB') }} B</span>
            </template>
          </div>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.table {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.columns {
  display: grid;
  grid-template-columns: 136px 216px minmax(0, 1fr) 70px 76px;
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
.ends {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  color: var(--ink);
}
.ends strong {
  font-weight: 500;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.scroller {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.window {
  position: sticky;
  top: 0;
  overflow: hidden;
}
.slot {
  position: absolute;
  inset-inline: 0;
  top: 0;
  height: 28px;
  cursor: pointer;
  --passage: var(--flow);
}
.slot:hover {
  background: rgba(var(--v-theme-on-surface), 0.03);
}
.partner {
  background: rgba(var(--v-theme-on-surface), 0.05);
}
.chosen,
.chosen:hover {
  background: var(--tint);
}
.way {
  height: 28px;
}
.ours {
  stroke: var(--primary);
  stroke-width: 3;
}
.theirs {
  stroke: var(--quiet);
  stroke-width: 3;
}
.passage {
  stroke: var(--passage);
  stroke-width: 1.8;
}
.arrival {
  fill: var(--passage);
}
.time {
  font-size: 12.5px;
  white-space: nowrap;
}
.was-refused {
  --passage: var(--break);
}
.was-odd,
.was-unanswered {
  --passage: var(--copper);
}
.was-refused .cut {
  color: var(--break);
}
.was-odd .cut,
.was-unanswered .cut {
  color: var(--copper);
}
.right {
  text-align: right;
  white-space: nowrap;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.asked {
  color: var(--quiet);
}
.nothing {
  padding: 14px 12px;
}
</style>

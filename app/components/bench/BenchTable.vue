<script setup lang="ts">
import { protocolOf } from '#core/links/registry'
import { counted } from '#core/text/counted'
import { isGood, quality, qualityText, severityOf } from '#core/tags/quality'
import { clockText, dayText, momentText } from '#core/text/moment'
import { valueText } from '#core/text/number'
import type { BenchEntry } from '#shared/bench'
import { linkIn } from '~/sources/face'

/** What was tried, the newest first: what each has, whether it is read on, and when it was last asked. */
const props = defineProps<{ entries: readonly BenchEntry[]; chosen: number | null; now: number }>()
defineEmits<{ choose: [id: number] }>()

const bench = useBench()
const lists = useLists()
const live = useLive()

const rows = computed(() =>
  props.entries.map((entry) => {
    const link = linkIn(lists.links, entry.linkId)
    return {
      entry,
      link: link?.name ?? 'a link that is gone',
      options: link ? protocolOf(link.kind).optionsText({ ...entry, access: 'read' }, link.settings) : '',
      ...(bench.kept.has(entry.id) ? keptFacts(entry) : triedFacts(entry)),
    }
  }),
)

const keptFacts = ({ id, type }: BenchEntry) => {
  const reading = bench.readings.get(id)
  if (!reading) return { flow: 'waiting' as const, text: '', state: 'waiting for the first answer', wrong: false, came: '', when: '' }
  const waits = reading.quality === quality.BadWaitingForInitialData
  const isBad = severityOf(reading.quality) === 'bad'
  const why = reading.origin?.fault?.what
  return {
    flow: waits ? ('waiting' as const) : isGood(reading.quality) ? ('flowing' as const) : ('broken' as const),
    text: reading.value === null ? '' : valueText(reading.value, type),
    state: waits ? 'waiting for the first answer' : isBad && why ? why : qualityText(reading.quality),
    wrong: isBad && !waits,
    came: reading.origin?.stages[0]?.text ?? '',
    when: reading.seenAt === 0 ? '' : `${Math.max(0, (props.now - live.clockAhead - reading.seenAt) / 1000).toFixed(1)} s ago`,
  }
}

const triedFacts = ({ last }: BenchEntry) => ({
  flow: 'off' as const,
  text: last?.ok ? last.text : '',
  state: !last ? 'not asked yet' : last.ok ? (last.did === 'read' ? 'read once' : 'written') : last.text,
  wrong: last?.ok === false,
  came: last?.came ?? '',
  when: last ? shortMoment(last.at) : '',
})
/** The day only where it is another one. */
const shortMoment = (at: number) => (dayText(at) === dayText(props.now) ? clockText(at).slice(0, 8) : dayText(at))
const glyphs = { waiting: 'waiting', flowing: 'read over and over', broken: 'read over and over, and bad', off: 'not read now' }
const toggle = (id: number) => (bench.kept.has(id) ? bench.rest([id]) : bench.keep([id]))
</script>

<template>
  <section class="sheet list">
    <table class="rows" aria-label="What was tried">
      <thead>
        <tr>
          <th>Link</th>
          <th>Address</th>
          <th>Type</th>
          <th class="number">Value</th>
          <th>State</th>
          <th>What came</th>
          <th>When</th>
          <th><span class="visually-hidden">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="row in rows"
          :key="row.entry.id"
          class="opens"
          :class="{ chosen: row.entry.id === chosen }"
          :aria-current="row.entry.id === chosen"
          tabindex="0"
          @click="$emit('choose', row.entry.id)"
          @keydown.enter.self="$emit('choose', row.entry.id)"
        >
          <td class="cut name" :title="row.link">{{ row.link }}</td>
          <td class="mono cut address" :title="row.entry.address">{{ row.entry.address }}</td>
          <td class="mono">{{ row.entry.type }} {{ row.options }}</td>
          <td class="number strong cut value" :title="row.text">{{ row.text || '—' }}</td>
          <td class="cut state" :class="{ 'is-broken': row.wrong }" :title="row.state">
            <span class="flow"
              ><PipeGlyph :flow="row.flow" :width="30" :text="glyphs[row.flow]" /><span class="cut">{{ row.state }}</span></span
            >
          </td>
          <td class="mono cut came" :title="row.came">{{ row.came }}</td>
          <td class="when quiet" :title="row.entry.last ? momentText(row.entry.last.at) : ''">{{ row.when }}</td>
          <td class="does">
            <button type="button" class="do" :disabled="bench.busy.has(row.entry.id)" @click.stop="bench.read([row.entry.id])">
              {{ bench.busy.has(row.entry.id) ? 'reading…' : 'read' }}
            </button>
            <button type="button" class="do" :aria-pressed="bench.kept.has(row.entry.id)" @click.stop="toggle(row.entry.id)">
              {{ bench.kept.has(row.entry.id) ? 'stop' : 'keep reading' }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="foot quiet">
      {{ counted(entries.length, 'point')
      }}<template v-if="bench.kept.size"> · {{ bench.kept.size }} read over and over while this page is open</template>
    </p>
  </section>
</template>

<style scoped>
.list {
  flex: 1;
  min-height: 120px;
  overflow: auto;
  container-type: inline-size;
}
@container (max-width: 900px) {
  th:nth-child(6),
  td:nth-child(6),
  th:nth-child(7),
  td:nth-child(7) {
    display: none;
  }
}
.rows {
  table-layout: fixed;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
th:nth-child(1) {
  width: 13%;
}
th:nth-child(2) {
  width: 18%;
}
th:nth-child(3) {
  width: 112px;
}
th:nth-child(4) {
  width: 13%;
}
th:nth-child(6) {
  width: 15%;
}
th:nth-child(7) {
  width: 92px;
}
th:nth-child(8) {
  width: 132px;
}
.flow {
  display: flex;
  align-items: center;
  gap: 8px;
}
.flow > :first-child {
  flex: none;
}
.flow > .cut {
  flex: 1;
  min-width: 0;
}
.strong {
  font-weight: 600;
}
.chosen {
  background: var(--tint);
}
.does {
  text-align: right;
  white-space: nowrap;
}
.do {
  color: var(--primary);
  font-size: 12px;
  margin-left: 10px;
}
.foot {
  margin: 0;
  padding: 7px 12px;
  border-top: 1px solid var(--line-soft);
}
</style>

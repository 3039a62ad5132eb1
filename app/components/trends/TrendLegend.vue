<script setup lang="ts">
import { mdiClose, mdiEyeOffOutline, mdiEyeOutline } from '@mdi/js'
import { useTheme } from 'vuetify'
import { clockText, momentText } from '#core/text/moment'
import { valueText } from '#core/text/number'
import { namedText } from '#core/tags/valueNames'
import { hasTexts, type Run } from '#core/history/runs'
import { drawnAt, runAt, runText } from '#core/trends/drawn'
import type { RecordedSample } from '#shared/history'
import { lineColour } from '~/trends/colours'
import type { Line } from '~/trends/lines'

/** The lines of the picture as a table: what each has at the cursors, and what is to be said of the whole span. */
const props = defineProps<{
  lines: readonly Line[]
  hidden: ReadonlySet<number>
  cursors: readonly (number | null)[]
  pointed: number | null
  /** What was really recorded at the cursors, by series; until it is known, what is drawn stands there. */
  exact: ReadonlyMap<number, readonly (RecordedSample | null)[]>
  chosen: string | null
  shiftText: string
}>()
const emit = defineEmits<{ choose: [key: string]; hide: [id: number]; remove: [id: number]; steps: [id: number, steps: boolean | null] }>()
const theme = useTheme()
const isDark = computed(() => theme.current.value.dark)

const words = { sample: 'every sample', second: 'seconds', minute: 'minutes', hour: 'hours' }
/** How else it can be drawn; texts cannot. */
const otherWay = ({ type, runs, picture, inSteps }: Line): { label: string; title: string; steps: boolean | null } | null => {
  if (hasTexts(type)) return null
  if (runs) return { label: 'as numbers', title: 'Draw its numbers in steps', steps: true }
  if (picture.runs) return { label: 'as names', title: 'Draw what its values are called', steps: null }
  return inSteps ? { label: 'as line', title: 'Draw as a line', steps: false } : { label: 'as steps', title: 'Draw in steps', steps: true }
}
const drawnText = ({ runs, picture, inSteps }: Line) => {
  if (picture.since !== null) return `every change since ${momentText(picture.since)}; before is too much`
  if (runs) return 'every change'
  const from = words[picture.drawnFrom]
  return `${from}${picture.drawnFrom === 'sample' ? '' : ', peaks kept'}${inSteps ? ', steps' : ''}`
}
const atCursor = (line: Line, i: number): number | null => {
  const at = props.cursors[i]
  if (at === null || at === undefined) return null
  const known = line.isBeside ? undefined : props.exact.get(line.id)?.[i]
  if (known !== undefined) return known && known.quality >>> 30 === 0 ? known.number : null
  return drawnAt(line.points, at)
}
const textAt = (line: Line, i: number): string => {
  const known = line.isBeside ? undefined : props.exact.get(line.id)?.[i]
  if (known?.text && known.quality >>> 30 === 0) return known.text
  return line.runs ? textDrawn(line.runs, props.cursors[i]!) : numberText(atCursor(line, i), line)
}
const textDrawn = (runs: readonly Run[], at: number) => {
  const run = runAt(runs, at)
  return run ? runText(run) : '—'
}
const numberText = (value: number | null, { type, names }: Line) => {
  if (value === null) return '—'
  if (type === 'bool' && names.length === 0 && (value === 0 || value === 1)) return value === 0 ? 'off' : 'on'
  return namedText(value, names, type)
}
/** What is worked out has no more digits than anybody reads. */
const meanText = (value: number | null) => valueText(value === null ? null : Number(value.toPrecision(7)))
const difference = (line: Line) => {
  const [a, b] = [atCursor(line, 0), atCursor(line, 1)]
  if (a === null || b === null) return '—'
  return `${b > a ? '+' : ''}${meanText(b - a)}`
}
const hasTwo = computed(() => props.cursors[0] != null && props.cursors[1] != null)
const head = (i: number) => (props.cursors[i] == null ? '' : `At ${i + 1} · ${clockText(props.cursors[i]!).slice(0, 8)}`)
const apart = computed(() => (hasTwo.value ? Math.abs(props.cursors[1]! - props.cursors[0]!) : 0))
</script>

<template>
  <table class="rows legend" aria-label="Series">
    <thead>
      <tr>
        <th><span class="visually-hidden">Line</span></th>
        <th>Series</th>
        <th>Unit</th>
        <th v-if="pointed !== null && cursors.every((at) => at === null)" class="number" :title="momentText(pointed)">
          {{ clockText(pointed).slice(0, 8) }}
        </th>
        <th v-for="i in [0, 1].filter((one) => cursors[one] != null)" :key="i" class="number" :title="momentText(cursors[i]!)">
          {{ head(i) }}
        </th>
        <th v-if="hasTwo" class="number" :title="`${apart} ms apart`">Difference</th>
        <th class="number">Least</th>
        <th class="number">Most</th>
        <th class="number" title="Each value counts for as long as it held">Mean by time</th>
        <th>Drawn from</th>
        <th><span class="visually-hidden">What can be done</span></th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="line in lines"
        :key="line.key"
        class="opens"
        :class="{ chosen: chosen === line.key, faint: hidden.has(line.id) }"
        tabindex="0"
        @click="emit('choose', line.key)"
        @keydown.enter="emit('choose', line.key)"
        @keydown.delete="emit('remove', line.id)"
      >
        <td class="swatch">
          <svg width="28" height="12" aria-hidden="true">
            <rect v-if="line.runs" x="1" y="2" width="26" height="9" rx="2" :fill="lineColour(line.colour, isDark)" fill-opacity="0.35" />
            <path
              v-else
              :d="line.inSteps ? 'M1 9h12V3h14' : 'M1 6h26'"
              :stroke="lineColour(line.colour, isDark)"
              :stroke-opacity="line.isBeside ? 0.45 : 1"
              stroke-width="2.4"
              fill="none"
            />
          </svg>
        </td>
        <td class="name mono" :title="line.path">
          {{ line.path }}<span v-if="line.isBeside" class="quiet"> · {{ shiftText }}</span>
        </td>
        <td>{{ line.unit }}</td>
        <td v-if="pointed !== null && cursors.every((at) => at === null)" class="number">
          {{ line.runs ? textDrawn(line.runs, pointed) : numberText(drawnAt(line.points, pointed), line) }}
        </td>
        <td v-for="i in [0, 1].filter((one) => cursors[one] != null)" :key="i" class="number">{{ textAt(line, i) }}</td>
        <td v-if="hasTwo" class="number">{{ difference(line) }}</td>
        <template v-if="line.runs"><td v-for="i in 3" :key="i" class="number">—</td></template>
        <template v-else>
          <td class="number">{{ numberText(line.picture.statistics.least, line) }}</td>
          <td class="number">{{ numberText(line.picture.statistics.most, line) }}</td>
          <td class="number">{{ meanText(line.picture.statistics.mean) }}</td>
        </template>
        <td class="quiet">{{ drawnText(line) }}</td>
        <td class="acts">
          <template v-if="!line.isBeside">
            <button
              v-if="otherWay(line)"
              type="button"
              class="act"
              :title="otherWay(line)!.title"
              @click.stop="emit('steps', line.id, otherWay(line)!.steps)"
            >
              {{ otherWay(line)!.label }}
            </button>
            <button type="button" class="act" :aria-label="hidden.has(line.id) ? 'Show' : 'Hide'" @click.stop="emit('hide', line.id)">
              <v-icon :icon="hidden.has(line.id) ? mdiEyeOffOutline : mdiEyeOutline" size="16" />
            </button>
            <button type="button" class="act" aria-label="Take out" title="Take out (Del)" @click.stop="emit('remove', line.id)">
              <v-icon :icon="mdiClose" size="16" />
            </button>
          </template>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.legend td,
.legend th {
  padding-block: 5px;
}
.swatch {
  width: 40px;
}
.name {
  max-width: 380px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
tr.chosen {
  background: var(--tint);
}
tr.faint td:not(.acts) {
  opacity: 0.5;
}
.acts {
  white-space: nowrap;
  text-align: right;
}
.act {
  margin-left: 8px;
  color: var(--quiet);
  font-size: 12px;
}
.act:hover,
.act:focus-visible {
  color: var(--primary);
}
</style>

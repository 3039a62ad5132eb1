<script setup lang="ts">
import { isNumeric } from '#core/tags/types'
import { momentText } from '#core/text/moment'
import { counted } from '#core/text/counted'
import type { RecordSetPreview } from '#shared/records/recordSet'

/** Real rows of what is asked for; the row that a cursor points at stands out. */
const props = defineProps<{ preview: RecordSetPreview; isCursor: boolean }>()
const most = 7
const at = computed(() => props.preview.at)
/** The row pointed at is among those shown. */
const from = computed(() => Math.max(0, Math.min((at.value ?? 0) - 3, props.preview.rows.length - most)))
const shown = computed(() => props.preview.rows.slice(from.value, from.value + most))
const facts = computed(() => {
  const { total, rows } = props.preview
  const all = total ?? rows.length
  if (all <= shown.value.length) return counted(all, 'row')
  const where = from.value === 0 ? `the first ${shown.value.length}` : `${from.value + 1} to ${from.value + shown.value.length}`
  return `${all.toLocaleString('en-GB')} in all, ${where} shown`
})
const isRight = (i: number) => isNumeric(props.preview.columns[i]!.type)
</script>

<template>
  <section class="sheet rows-now" aria-label="Rows now">
    <h2 class="head">
      <strong>Rows now</strong> <span class="quiet">{{ facts }}</span>
    </h2>
    <p v-if="preview.rows.length === 0" class="quiet none">There is no row now.</p>
    <div v-else class="wide">
      <table class="rows" aria-label="Rows">
        <thead>
          <tr>
            <th v-if="isCursor"><span class="visually-hidden">Pointed at</span></th>
            <th v-for="(column, i) in preview.columns" :key="column.name" :class="{ number: isRight(i) }" :title="column.declared">
              {{ column.name }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in shown" :key="from + r" :class="{ at: from + r === at }">
            <td v-if="isCursor" class="mark"><PipeGlyph v-if="from + r === at" flow="flowing" :width="34" text="Pointed at" /></td>
            <td v-for="(cell, c) in row" :key="c" class="mono" :class="{ number: isRight(c) }">
              <span v-if="cell === null" class="quiet">null</span>
              <template v-else>{{ preview.columns[c]!.type === 'datetime' ? momentText(cell) : cell }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.rows-now {
  margin-top: 12px;
}
.head {
  margin: 0;
  padding: 9px 12px;
  font-size: 13px;
  font-weight: 400;
}
.head strong {
  font-weight: 600;
}
.wide {
  overflow-x: auto;
}
.none {
  margin: 0;
  padding: 0 12px 12px;
}
.mark {
  width: 46px;
}
.at td {
  background: color-mix(in srgb, var(--flow) 12%, transparent);
}
td {
  max-width: 320px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>

<script setup lang="ts">
import { folderOf, nameOf } from '#core/tags/path'
import { qualityText, severityOf } from '#core/tags/quality'
import { passedOnBy } from '#core/tags/scaling'
import { valueText } from '#core/text/number'
import type { Tag } from '#shared/tags'
import type { GridEdits } from '~/composables/useGridEdits'

/** One tag in the grid: its cells, or the part of them that stays in sight. */
const props = defineProps<{
  tag: Tag
  row: number
  /** The columns of this part, and the place of the first of them. */
  columns: readonly string[]
  first: number
  edits: GridEdits
  /** The chosen columns of this row, both ends included; none: -1. */
  left: number
  right: number
  /** The column of the cursor; -1: it is in another row. */
  at: number
  note: string | undefined
}>()
const live = useLive()
const isPinned = computed(() => props.first === 0)
const value = computed(() => (isPinned.value ? undefined : live.values.get(props.tag.id)))
const text = computed(() => valueText(value.value?.value, passedOnBy(props.tag)))
const severity = computed(() => (value.value ? severityOf(value.value.quality) : null))
const edited = computed(() => props.edits.edits.get(props.tag.id)?.cells)
const saved = computed(() => props.edits.savedCells(props.tag))
const problems = computed(() => props.edits.problems.get(props.tag.id))
const textOf = (column: string) => edited.value?.[column] ?? saved.value[column] ?? ''
const folderPart = (path: string) => (folderOf(path) === '' ? '' : `${folderOf(path)}/`)
const isChosen = (i: number) => i + props.first >= props.left && i + props.first <= props.right
</script>

<template>
  <div class="grid-row" role="row" :aria-rowindex="row + 2">
    <span v-if="isPinned" class="number-cell quiet" role="rowheader" :data-row="row" :class="{ noted: note }">{{ row + 1 }}</span>
    <template v-else>
      <span class="cell number live" role="gridcell">{{ text }}</span>
      <span class="cell live" role="gridcell" :class="{ 'is-broken': severity === 'bad', 'is-late': severity === 'uncertain' }">{{
        value ? qualityText(value.quality) : ''
      }}</span>
    </template>
    <span
      v-for="(column, i) in columns"
      :key="column"
      role="gridcell"
      class="cell"
      :class="{
        chosen: isChosen(i),
        at: at === i + first,
        edited: edited?.[column] !== undefined,
        wrong: problems?.[column],
        mono: column !== 'description',
        path: column === 'path',
      }"
      :aria-selected="isChosen(i)"
      :aria-invalid="problems?.[column] ? true : undefined"
      :data-row="row"
      :data-column="i + first"
      ><template v-if="column === 'path'"
        ><span class="folder quiet">{{ folderPart(textOf(column)) }}</span
        ><span class="name">{{ nameOf(textOf(column)) }}</span></template
      ><template v-else>{{ textOf(column) }}</template></span
    >
  </div>
</template>

<style scoped>
.grid-row {
  display: grid;
  grid-template-columns: var(--grid-columns);
  height: 26px;
  border-bottom: 1px solid var(--line-soft);
}
.number-cell {
  border-right: 1px solid var(--line);
  text-align: right;
  padding: 4px 8px 0 0;
  font-size: 11px;
  cursor: default;
}
.noted {
  color: var(--copper);
  font-weight: 600;
}
.cell {
  border-right: 1px solid var(--line-soft);
  padding: 4px 7px 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: cell;
  font-size: 12px;
}
/* where it is tight the folders give way, the name stays */
.path {
  display: flex;
}
.folder {
  flex: 0 1 auto;
  overflow: hidden;
  text-overflow: ellipsis;
}
.name {
  flex: none;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
.live {
  cursor: default;
  color: var(--quiet);
}
.chosen {
  background: color-mix(in srgb, rgb(var(--v-theme-primary)) 12%, var(--surface));
}
.edited {
  font-weight: 600;
  box-shadow: inset 2px 0 0 var(--flow);
}
.wrong {
  color: var(--break);
  text-decoration: underline dotted;
}
.at {
  outline: 2px solid rgb(var(--v-theme-primary));
  outline-offset: -2px;
}
</style>

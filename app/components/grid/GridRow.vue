<script setup lang="ts" generic="R extends GridThing">
import { folderOf, nameOf } from '#core/tags/path'
import type { GridCells, GridThing } from '~/composables/gridCells'

/** One row of a grid: its cells, or the part of them that stays in sight. A slot takes the cells of what it is now. */
const props = defineProps<{
  thing: R
  row: number
  /** The columns of this part, and the place of the first of them. */
  columns: readonly string[]
  first: number
  cells: GridCells<R>
  /** The chosen columns of this row, both ends included; none: -1. */
  left: number
  right: number
  /** The column of the cursor; -1: it is in another row. */
  at: number
  note: string | undefined
}>()
const isPinned = computed(() => props.first === 0)
const textOf = (column: string) => props.cells.cellOf(props.thing, column)
const problemOf = (column: string) => props.cells.problemOf(props.thing, column)
const folderPart = (path: string) => (folderOf(path) === '' ? '' : `${folderOf(path)}/`)
const isChosen = (i: number) => i + props.first >= props.left && i + props.first <= props.right
</script>

<template>
  <div class="grid-row" role="row" :aria-rowindex="row + 2">
    <span v-if="isPinned" class="number-cell quiet" role="rowheader" :data-row="row" :class="{ noted: note }">{{ row + 1 }}</span>
    <slot v-else />
    <span
      v-for="(column, i) in columns"
      :key="column"
      role="gridcell"
      class="grid-cell cell"
      :class="{
        chosen: isChosen(i),
        at: at === i + first,
        edited: cells.isEdited(thing, column),
        wrong: problemOf(column),
        mono: column !== 'description',
        path: column === 'path',
      }"
      :aria-selected="isChosen(i)"
      :aria-invalid="problemOf(column) ? true : undefined"
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
.grid-row :deep(.grid-cell) {
  border-right: 1px solid var(--line-soft);
  padding: 4px 7px 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
}
.cell {
  cursor: cell;
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
.grid-row :deep(.live) {
  cursor: default;
}
.grid-row :deep(.live:not(.is-broken, .is-late)) {
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

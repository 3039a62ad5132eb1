<script setup lang="ts" generic="R extends GridThing">
import { mdiArrowDownThin, mdiArrowUpThin } from '@mdi/js'
import type { VirtualItem } from '@tanstack/vue-virtual'
import type { GridCells, GridColumns, GridThing } from '~/composables/gridCells'
import type { Cell, GridBlock } from '~/composables/useGridCursor'

/** Some columns of the grid with their heads: those that stay in sight, or the others. */
const props = defineProps<{
  columns: readonly string[]
  /** The place of the first of them. */
  first: number
  /** Of all tracks, pixels. */
  widths: readonly number[]
  items: readonly VirtualItem[]
  /** So many rows are there at most; each row on screen takes the place of one that left it. */
  pool: number
  height: number
  rows: ReadonlyMap<number, R>
  cells: GridCells<R>
  ways: GridColumns
  watched: readonly { name: string; right?: boolean }[]
  noteOf?: ((row: R) => string | undefined) | undefined
  block: GridBlock
  cursor: Cell
  sort: string
}>()
defineEmits<{ pick: [column: number]; sort: [sort: string] }>()

const style = computed(() => ({
  '--grid-columns': props.widths.map((width) => `${width}px`).join(' '),
  width: `${props.widths.reduce((sum, width) => sum + width, 0)}px`,
}))
const isSorted = (column: string) => props.sort.replace(/^-/, '') === column
const isDown = computed(() => props.sort.startsWith('-'))
const canSort = (column: string) => props.ways.sorts.includes(column)
const isChosen = (row: number) => row >= props.block.top && row <= props.block.bottom
</script>

<template>
  <div class="part" :style="style">
    <div class="head" role="row">
      <span v-if="first === 0" role="columnheader"><span class="visually-hidden">row</span></span>
      <template v-else>
        <span v-for="{ name, right } in watched" :key="name" role="columnheader" :class="{ right }">{{ name }}</span>
      </template>
      <span
        v-for="(column, i) in columns"
        :key="column"
        role="columnheader"
        :title="ways.about(column)"
        :aria-sort="isSorted(column) ? (isDown ? 'descending' : 'ascending') : undefined"
      >
        <button type="button" class="name" tabindex="-1" @click="$emit('pick', i + first)">{{ column.replaceAll('_', ' ') }}</button>
        <button
          v-if="canSort(column)"
          type="button"
          class="order"
          :class="{ on: isSorted(column) }"
          :aria-label="`Order by ${column}`"
          :title="`Order by ${column}`"
          @click="$emit('sort', isSorted(column) && !isDown ? `-${column}` : column)"
        >
          <v-icon :icon="isSorted(column) && isDown ? mdiArrowDownThin : mdiArrowUpThin" size="16" />
        </button>
      </span>
    </div>
    <div role="rowgroup" class="body" :style="{ height: `${height}px` }">
      <div v-for="item in items" :key="item.index % pool" class="slot" :style="{ transform: `translateY(${item.start}px)` }">
        <GridRow
          v-if="rows.get(item.index)"
          :thing="rows.get(item.index)!"
          :row="item.index"
          :columns="columns"
          :first="first"
          :cells="cells"
          :left="isChosen(item.index) ? block.left : -1"
          :right="isChosen(item.index) ? block.right : -1"
          :at="cursor.row === item.index ? cursor.column : -1"
          :note="first === 0 ? noteOf?.(rows.get(item.index)!) : undefined"
        >
          <slot name="watched" :row="rows.get(item.index)!" />
        </GridRow>
        <div v-else class="waiting quiet">…</div>
        <slot :row="item.index" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.part {
  flex: none;
}
.head {
  position: sticky;
  top: 0;
  z-index: 2;
  display: grid;
  grid-template-columns: var(--grid-columns);
  height: 28px;
  background: var(--surface);
  border-bottom: 1px solid var(--line);
  color: var(--quiet);
  font-weight: 500;
}
.head > * {
  display: flex;
  align-items: center;
  padding: 0 7px;
  border-right: 1px solid var(--line-soft);
  white-space: nowrap;
  overflow: hidden;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
}
.order {
  margin-left: auto;
  opacity: 0;
}
.head > :hover .order,
.order:focus-visible {
  opacity: 0.6;
}
.order.on {
  opacity: 1;
  color: rgb(var(--v-theme-primary));
}
.head > .right {
  justify-content: flex-end;
}
.body {
  position: relative;
}
.slot {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  height: 26px;
  contain: layout style;
  display: grid;
  grid-template-columns: var(--grid-columns);
}
.slot > :first-child {
  grid-column: 1 / -1;
  grid-row: 1;
}
.waiting {
  padding: 4px 10px;
  height: 26px;
}
</style>

<script setup lang="ts" generic="R extends GridThing">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { refDebounced, useElementSize } from '@vueuse/core'
import { counted } from '#core/text/counted'
import type { GridCells, GridColumns, GridThing } from '~/composables/gridCells'
import type { Cell } from '~/composables/useGridCursor'

/** Things as a grid of cells: gone through by keys, written, filled and pasted by the block. */
const props = defineProps<{
  /** What the grid is, for those who hear it. */
  label: string
  /** What a row is, in a word. */
  what: string
  /** What is said of lines that are pasted below the last row. */
  below: string
  columns: readonly string[]
  ways: GridColumns
  total: number
  rows: ReadonlyMap<number, R>
  cells: GridCells<R>
  /** Brings rows here that are not yet. */
  need: (first: number, last: number) => Promise<void>
  mayEdit: boolean
  /** By what column the rows are ordered; with “-” the other way round. */
  sort: string
  /** Columns of what a row is now; their cells are those of the slot of this name. */
  watched: readonly { name: string; width: number; right?: boolean }[]
  /** What is to be said of a row. */
  noteOf?: (row: R) => string | undefined
}>()
const emit = defineEmits<{ save: []; sort: [sort: string]; rest: [ids: number[]] }>()
const live = useLive()

const rowHeight = 26
const overscan = 6
/** Rows are asked for before they come into sight. */
const askedAhead = 80
const widthOf = (name: string) => props.ways.widths[name] ?? Math.max(64, name.length * 8 + 16)
const scroller = ref<HTMLElement | null>(null)
const { width: room } = useElementSize(scroller)
const numberWidth = 56
const pinned = computed(() => props.columns.slice(0, 1))
const others = computed(() => props.columns.slice(1))
const otherWidths = computed(() => [...props.watched.map(({ width }) => width), ...others.value.map(widthOf)])
/** What the others leave of the width is for the first. */
const spare = computed(() => {
  const taken = [numberWidth, ...pinned.value.map(widthOf), ...otherWidths.value].reduce((sum, width) => sum + width, 0)
  return Math.max(0, Math.floor(room.value) - taken)
})
/** The number of the row and its path stay in sight, whatever column one is at; what the tag is now comes next. */
const parts = computed(() => [
  { first: 0, columns: pinned.value, widths: [numberWidth, ...pinned.value.map((name) => widthOf(name) + spare.value)] },
  { first: 1, columns: others.value, widths: otherWidths.value },
])
const virtual = useVirtualizer(
  computed(() => ({
    count: props.total,
    getScrollElement: () => scroller.value,
    estimateSize: () => rowHeight,
    overscan,
    scrollPaddingStart: 28,
  })),
)
const visible = computed(() => virtual.value.getVirtualItems())
const pool = computed(() => Math.ceil((virtual.value.scrollRect?.height ?? 0) / rowHeight) + 2 * overscan + 4)
watch([visible, () => props.rows.size, () => props.total, () => live.changes], ([items]) => {
  if (items.length > 0)
    void props.need(Math.max(0, items[0]!.index - askedAhead), Math.min(props.total - 1, items.at(-1)!.index + askedAhead))
})
/** Values are asked for where one rests, not for what passes. */
const resting = refDebounced(
  computed(() => visible.value.flatMap(({ index }) => props.rows.get(index)?.id ?? [])),
  120,
)
watch(resting, (ids) => emit('rest', ids))

const { cursor, block, go, select, press } = useGridCursor({
  rows: () => props.total,
  columns: () => props.columns.length,
  page: () => Math.max(1, Math.floor((scroller.value?.clientHeight ?? 0) / rowHeight) - 2),
  reveal: ({ row, column }) => {
    virtual.value.scrollToIndex(row)
    void nextTick(() =>
      scroller.value
        ?.querySelector(`[data-row="${row}"][data-column="${column}"]`)
        ?.scrollIntoView({ block: 'nearest', inline: 'nearest' }),
    )
  },
})
const chosenRows = computed(() => block.value.bottom - block.value.top + 1)
const chosenCells = computed(() => chosenRows.value * (block.value.right - block.value.left + 1))
const problem = computed(() => {
  const row = props.rows.get(cursor.value.row)
  return row ? (props.cells.problemOf(row, props.columns[cursor.value.column]!) ?? '') : ''
})
const about = computed(() => props.ways.about(props.columns[cursor.value.column] ?? ''))
const cellText = ({ row: at, column }: Cell) => {
  const row = props.rows.get(at)
  return row ? props.cells.cellOf(row, props.columns[column]!) : ''
}

// writing

const { fill, fillDown, copy, paste } = useGridBlock({
  block,
  select,
  lastRow: () => props.total - 1,
  columns: () => props.columns,
  what: () => props,
  rowAt: (row) => props.rows.get(row),
  textAt: cellText,
  mayWrite: (column) => mayWrite(column),
  need: (first, last) => props.need(first, last),
  write: (cells) => props.cells.write(cells),
})
const typing = ref<{ text: string; row: number; column: number } | null>(null)
/** Rows come and go while one scrolls; the field takes the keys when it comes. */
const takeFocus = (field: unknown) => {
  if (field instanceof HTMLInputElement && document.activeElement !== field) field.focus()
}
const mayWrite = (column: number) => props.mayEdit && !props.ways.fixed.has(props.columns[column]!)
const isTyping = () => typing.value !== null
const startTyping = (text: string) => {
  if (!mayWrite(cursor.value.column) || !props.rows.has(cursor.value.row)) return
  typing.value = { text, ...cursor.value }
}
const endTyping = () => {
  typing.value = null
  scroller.value?.focus({ preventScroll: true })
}
/** @param everywhere in all chosen cells */
const commit = async (everywhere = false) => {
  if (!typing.value) return
  const { text, row: at, column } = typing.value
  endTyping()
  if (everywhere) return fill(() => text)
  const row = props.rows.get(at)
  if (row) props.cells.write([{ row, column: props.columns[column]!, text }])
}

// keys and the pointer

const commands: Record<string, () => unknown> = {
  z: () => props.cells.undo(),
  y: () => props.cells.redo(),
  d: fillDown,
  s: () => emit('save'),
  a: () => select({ row: 0, column: 0 }, { row: props.total - 1, column: props.columns.length - 1 }),
}
const clear = () => fill(() => '')
const write = () => startTyping(cellText(cursor.value))
const plainKeys: Record<string, () => unknown> = {
  Enter: write,
  F2: write,
  Delete: clear,
  Backspace: clear,
  Escape: () => go(cursor.value),
}
/** What a key does; null: nothing here. */
const actionOf = ({ key, ctrlKey, metaKey, shiftKey }: KeyboardEvent): (() => unknown) | null => {
  if (ctrlKey || metaKey) {
    const letter = key.toLowerCase()
    if (letter === 'z' && shiftKey) return () => props.cells.redo()
    return Object.hasOwn(commands, letter) ? commands[letter]! : null
  }
  if (key === 'Tab') {
    const next = cursor.value.column + (shiftKey ? -1 : 1)
    // at either end the focus goes on through the page
    return next < 0 || next >= props.columns.length ? null : () => go({ ...cursor.value, column: next })
  }
  if (Object.hasOwn(plainKeys, key)) return plainKeys[key]!
  return key.length === 1 ? () => startTyping(key) : null
}
const keys = (event: KeyboardEvent) => {
  if (isTyping() || event.altKey) return
  const action = press(event) ? () => {} : actionOf(event)
  if (!action) return
  void action()
  event.preventDefault()
  event.stopPropagation()
}
const typingKeys = (event: KeyboardEvent) => {
  event.stopPropagation()
  const { row, column } = cursor.value
  if (event.key === 'Escape') endTyping()
  else if (event.key === 'Enter')
    void commit(event.ctrlKey || event.metaKey).then(() => event.ctrlKey || go({ row: row + (event.shiftKey ? -1 : 1), column }))
  else if (event.key === 'Tab') void commit().then(() => go({ row, column: column + (event.shiftKey ? -1 : 1) }))
  else return
  event.preventDefault()
}
const cellUnder = (event: MouseEvent): Cell | null => {
  const { row, column } = (event.target as HTMLElement).closest<HTMLElement>('[data-row]')?.dataset ?? {}
  return row === undefined ? null : { row: Number(row), column: column === undefined ? -1 : Number(column) }
}
const down = (event: MouseEvent) => {
  const cell = cellUnder(event)
  if (!cell || event.button !== 0) return
  void commit()
  const last = props.columns.length - 1
  if (cell.column < 0) select({ row: event.shiftKey ? block.value.top : cell.row, column: 0 }, { row: cell.row, column: last })
  else go(cell, event.shiftKey)
  scroller.value?.focus({ preventScroll: true })
  event.preventDefault()
}
/** What a narrow cell hides, or what is wrong with it, where the pointer rests. */
const explain = (event: MouseEvent) => {
  const cell = cellUnder(event)
  const row = cell && props.rows.get(cell.row)
  const target = (event.target as HTMLElement).closest<HTMLElement>('[data-row]')
  if (!row || !target) return
  const column = props.columns[cell.column]
  target.title = column === undefined ? (props.noteOf?.(row) ?? '') : (props.cells.problemOf(row, column) ?? cellText(cell))
}
const drag = (event: MouseEvent) => {
  explain(event)
  const cell = event.buttons === 1 ? cellUnder(event) : null
  if (cell && cell.column >= 0) go(cell, true)
}
const pickColumn = (column: number) => {
  select({ row: 0, column }, { row: props.total - 1, column })
  scroller.value?.focus({ preventScroll: true })
}
onMounted(() => scroller.value?.focus({ preventScroll: true }))
defineExpose({ block, chosenRows, fillDown, focus: () => scroller.value?.focus({ preventScroll: true }) })
</script>

<template>
  <div class="sheet grid">
    <div
      ref="scroller"
      class="scroller"
      tabindex="0"
      role="grid"
      :aria-label="label"
      aria-multiselectable="true"
      :aria-rowcount="total + 1"
      :aria-colcount="columns.length + watched.length + 1"
      @keydown="keys"
      @copy="isTyping() || copy($event)"
      @cut="isTyping() || copy($event)"
      @paste="isTyping() || paste($event)"
      @mousedown="down"
      @mouseover="drag"
      @dblclick="cellUnder($event) && startTyping(cellText(cursor))"
    >
      <GridPart
        v-for="part in parts"
        :key="part.first"
        v-bind="part"
        :class="{ pinned: part.first === 0 }"
        :items="visible"
        :pool="pool"
        :height="virtual.getTotalSize()"
        :rows="rows"
        :cells="cells"
        :ways="ways"
        :watched="watched"
        :note-of="noteOf"
        :block="block"
        :cursor="cursor"
        :sort="sort"
        @pick="pickColumn"
        @sort="emit('sort', $event)"
      >
        <template #watched="{ row }"><slot name="watched" :row="row" /></template>
        <template #default="{ row }">
          <input
            v-if="typing?.row === row && (typing.column === 0) === (part.first === 0)"
            :ref="takeFocus"
            v-model="typing.text"
            class="typing mono"
            :style="{ gridColumn: typing.column + 2 }"
            :aria-label="`${columns[typing.column]} of row ${typing.row + 1}`"
            spellcheck="false"
            autocomplete="off"
            @keydown="typingKeys"
            @blur="commit()"
            @mousedown.stop
          />
        </template>
      </GridPart>
    </div>
    <div class="foot">
      <span v-if="problem" class="is-broken">{{ problem }}</span>
      <span v-else-if="chosenCells > 1" class="quiet"
        >{{ chosenCells.toLocaleString('en-GB') }} cells of {{ counted(chosenRows, what) }} chosen. Ctrl D fills down, Ctrl Enter writes all
        of them.</span
      >
      <span v-else class="quiet"
        ><strong>{{ (columns[cursor.column] ?? '').replaceAll('_', ' ') }}</strong> {{ about }}</span
      >
      <slot />
    </div>
  </div>
</template>

<style scoped>
.grid {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.scroller {
  flex: 1;
  min-height: 0;
  overflow: auto;
  display: flex;
  align-items: flex-start;
  border-radius: 8px 8px 0 0;
  user-select: none;
}
.scroller:focus-visible {
  outline: 2px solid rgb(var(--v-theme-primary));
  outline-offset: -1px;
}
.pinned {
  position: sticky;
  left: 0;
  z-index: 3;
  background: var(--surface);
}
.typing {
  grid-row: 1;
  z-index: 4;
  height: 26px;
  min-width: 120px;
  padding: 0 6px;
  font-size: 12px;
  background: var(--surface);
  border: 2px solid rgb(var(--v-theme-primary));
  outline: none;
}
.foot {
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 34px;
  padding: 4px 12px;
  border-top: 1px solid var(--line);
}
.foot > :first-child {
  flex: 1;
  min-width: 0;
}
</style>

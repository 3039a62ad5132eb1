export interface Cell {
  row: number
  column: number
}

/** Both ends are in it. */
export interface GridBlock {
  top: number
  bottom: number
  left: number
  right: number
}

interface Grid {
  rows: () => number
  columns: () => number
  /** How many rows are on screen. */
  page: () => number
  /** Brings a cell onto the screen. */
  reveal(cell: Cell): void
}

/** Which cell of a grid one is in, and which block of them is chosen. */
export const useGridCursor = ({ rows, columns, page, reveal }: Grid) => {
  const cursor = ref<Cell>({ row: 0, column: 0 })
  const anchor = ref<Cell>({ row: 0, column: 0 })

  const bounded = ({ row, column }: Cell): Cell => ({
    row: Math.max(0, Math.min(rows() - 1, row)),
    column: Math.max(0, Math.min(columns() - 1, column)),
  })
  const go = (to: Cell, extends_ = false) => {
    cursor.value = bounded(to)
    if (!extends_) anchor.value = cursor.value
    reveal(cursor.value)
  }
  const block = computed((): GridBlock => {
    const [a, b] = [anchor.value, cursor.value]
    return {
      top: Math.min(a.row, b.row),
      bottom: Math.max(a.row, b.row),
      left: Math.min(a.column, b.column),
      right: Math.max(a.column, b.column),
    }
  })
  /** From one corner to the other; the cursor stays where it is on screen. */
  const select = (from: Cell, to: Cell) => {
    anchor.value = bounded(from)
    cursor.value = bounded(to)
  }
  /** @returns whether the key moved it */
  const press = (event: KeyboardEvent): boolean => {
    const { row, column } = cursor.value
    const far = event.ctrlKey || event.metaKey
    const moves: Record<string, Cell> = {
      ArrowDown: { row: far ? rows() - 1 : row + 1, column },
      ArrowUp: { row: far ? 0 : row - 1, column },
      ArrowRight: { row, column: far ? columns() - 1 : column + 1 },
      ArrowLeft: { row, column: far ? 0 : column - 1 },
      PageDown: { row: row + page(), column },
      PageUp: { row: row - page(), column },
      Home: { row: far ? 0 : row, column: 0 },
      End: { row: far ? rows() - 1 : row, column: columns() - 1 },
    }
    const to = Object.hasOwn(moves, event.key) ? moves[event.key] : undefined
    if (!to) return false
    go(to, event.shiftKey)
    return true
  }

  return { cursor, block, go, select, press }
}

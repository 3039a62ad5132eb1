import { counted } from '#core/text/counted'
import { blockOf, blockText } from './gridBlock'
import type { GridThing } from './gridCells'
import type { Cell, GridBlock } from './useGridCursor'

interface Grid<R extends GridThing> {
  block: Ref<GridBlock>
  select(from: Cell, to: Cell): void
  lastRow: () => number
  columns: () => readonly string[]
  /** What a row is, and what is said of lines that are pasted below the last. */
  what: () => { what: string; below: string }
  rowAt(row: number): R | undefined
  textAt(cell: Cell): string
  mayWrite(column: number): boolean
  /** Brings rows here that are not yet. */
  need(first: number, last: number): Promise<void>
  write(cells: readonly { row: R; column: string; text: string }[]): void
}

/** So many rows are changed at once. */
const most = 20_000

/** What is done to a block of cells: filled, cleared, copied and pasted, whether its rows are here already or not. */
export const useGridBlock = <R extends GridThing>(grid: Grid<R>) => {
  const { block, select, lastRow, columns, what, rowAt, textAt, mayWrite, need, write } = grid
  const notices = useNotices()

  const writeBlock = async ({ top, bottom, left, right }: GridBlock, wanted: (cell: Cell) => string | null) => {
    if (bottom - top >= most) return notices.tellProblem(`At most ${counted(most, what().what)} at once; for more take a spreadsheet.`)
    await need(top, bottom)
    const cells = []
    for (let at = top; at <= bottom; at++) {
      const row = rowAt(at)
      for (let column = left; row && column <= right; column++) {
        const text = mayWrite(column) ? wanted({ row: at, column }) : null
        if (text !== null) cells.push({ row, column: columns()[column]!, text })
      }
    }
    write(cells)
  }

  const fill = (wanted: (cell: Cell) => string | null) => writeBlock(block.value, wanted)

  /** The first of the chosen rows goes into the others; a single row takes the one above it. */
  const fillDown = async () => {
    const { top, bottom } = block.value
    const from = bottom > top ? top : top - 1
    if (from < 0) return
    await need(from, from)
    await fill(({ row, column }) => (row === from ? null : textAt({ row: from, column })))
  }

  const copy = async (event: ClipboardEvent) => {
    event.preventDefault()
    const { top, bottom, left, right } = block.value
    const rowsOf = Math.min(bottom - top + 1, most)
    const lines = Array.from({ length: rowsOf }, (_, i) =>
      Array.from({ length: right - left + 1 }, (_, j) => textAt({ row: top + i, column: left + j })),
    )
    event.clipboardData?.setData('text/plain', blockText(lines))
    if (event.type === 'cut') await fill(() => '')
  }

  /** One cell goes into all that are chosen, a block to where it fits. */
  const paste = async (event: ClipboardEvent) => {
    event.preventDefault()
    const lines = blockOf(event.clipboardData?.getData('text/plain') ?? '')
    const wide = Math.max(...lines.map((cells) => cells.length))
    const { top, left } = block.value
    if (lines.length === 1 && wide === 1) return fill(() => lines[0]![0]!)
    const bottom = Math.min(lastRow(), top + lines.length - 1)
    const right = Math.min(columns().length - 1, left + wide - 1)
    await writeBlock({ top, bottom, left, right }, ({ row, column }) => lines[row - top]?.[column - left] ?? null)
    select({ row: top, column: left }, { row: bottom, column: right })
    const lost = lines.length - (bottom - top + 1)
    if (lost > 0)
      notices.tellProblem(`${counted(lost, 'line')} found no ${what().what} below the last one and were left out. ${what().below}`)
  }

  return { fill, fillDown, copy, paste }
}

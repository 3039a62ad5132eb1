/** One row of a grid. */
export interface GridThing {
  id: number
}

/** What stands in the cells of a grid, and what is written there. */
export interface GridCells<R extends GridThing> {
  cellOf(row: R, column: string): string
  /** Whether it is another than what is saved. */
  isEdited(row: R, column: string): boolean
  problemOf(row: R, column: string): string | undefined
  write(cells: readonly { row: R; column: string; text: string }[]): void
  undo(): void
  redo(): void
}

/** What the columns of a grid are like. */
export interface GridColumns {
  /** What stands in one, as a sentence. */
  about(name: string): string
  /** Those that cannot be written. */
  fixed: ReadonlySet<string>
  /** Those by which rows can be ordered. */
  sorts: readonly string[]
  /** Pixels; others by their names. */
  widths: Record<string, number>
}

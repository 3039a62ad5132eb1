import type { Cell } from './csv/write'
import type { DecimalSign } from './csv/numbers'

/** How the cells of one table are read: its decimal sign, and what else its columns look things up in. */
export interface Reading<C> {
  decimal: DecimalSign
  context: C
}

/** One column of a table of things: what stands in it, and what a cell makes of a thing. */
export interface Column<T, C = unknown> {
  /** As the header names it. */
  name: string
  /** What stands in it, as a sentence. */
  about: string
  /** The field of the thing, as messages name it. */
  field: string
  /** Null: empty. Numbers are written with the table's decimal sign. */
  show(thing: T, context: C): Cell
  /** Sets what a cell says, which may be nothing. @returns what is wrong with the cell; null: nothing */
  put(thing: T, cell: string, reading: Reading<C>): string | null
}

/** Sets an option, or takes it away. */
export const setOption = (options: Record<string, unknown>, name: string, value: unknown) => {
  if (value === undefined) delete options[name]
  else options[name] = value
}

/** The names under which a column may stand in a header, made alike. */
export const plainName = (header: string): string =>
  header
    .trim()
    .toLowerCase()
    .replace(/[\s_\-.]+/g, '_')

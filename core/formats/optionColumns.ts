import { numberCell, orElse, set, wordCell } from './cells'
import { setOption, type Column } from './column'

/** Columns of a table of tags for options of points: empty cells leave an option out. */

type Options = Record<string, unknown>

/** One of some words. @param field of the options, and its name in the file */
export const wordColumn = <T extends string>(name: string, field: string, words: readonly T[], about: string): Column<Options> => ({
  ...{ name, field, about },
  show: (options) => (options[field] as string | undefined) ?? null,
  put: (options, cell) =>
    set(
      orElse(cell, undefined, () => wordCell(cell, words, field)),
      (word) => setOption(options, field, word),
    ),
})

export const numberColumn = (name: string, field: string, about: string): Column<Options> => ({
  ...{ name, field, about },
  show: (options) => (options[field] as number | undefined) ?? null,
  put: (options, cell, reading) =>
    set(
      orElse(cell, undefined, () => numberCell(cell, reading)),
      (number) => setOption(options, field, number),
    ),
})

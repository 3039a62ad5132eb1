import { setOption, type Column } from '../formats/column'
import { numberCell, orElse, set, wordCell } from '../formats/cells'
import { byteOrders, forms, formText } from './layout'

type Options = Record<string, unknown>

const wordColumn = <T extends string>(name: string, field: string, words: readonly T[], about: string): Column<Options> => ({
  ...{ name, field, about },
  show: (options) => (options[field] as string | undefined) ?? null,
  put: (options, cell) =>
    set(
      orElse(cell, undefined, () => wordCell(cell, words, field)),
      (word) => setOption(options, field, word),
    ),
})

const numberColumn = (name: string, field: string, about: string): Column<Options> => ({
  ...{ name, field, about },
  show: (options) => (options[field] as number | undefined) ?? null,
  put: (options, cell, reading) =>
    set(
      orElse(cell, undefined, () => numberCell(cell, reading)),
      (number) => setOption(options, field, number),
    ),
})

/** What tables of tags have for points of controllers. */
export const isoTcpColumns: readonly Column<Options>[] = [
  wordColumn(
    'form',
    'form',
    forms,
    `How a text or a time lies in its bytes: ${forms.map((form) => `${form} (${formText[form]})`).join('; ')}.`,
  ),
  wordColumn(
    'byte_order',
    'order',
    byteOrders,
    'In which order the bytes of a number lie: big or little first. Empty: as the link has it.',
  ),
  numberColumn('length', 'length', 'Characters of a text.'),
  numberColumn('elements', 'count', 'Elements of an array.'),
]

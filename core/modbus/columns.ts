import { setOption, type Column } from '../formats/column'
import { numberCell, orElse, set, wordCell } from '../formats/cells'
import { codings } from './bcd'
import { wordOrders } from './layout'

type Options = Record<string, unknown>

/** What tables of tags have for points of Modbus links. */
export const modbusColumns: readonly Column<Options>[] = [
  {
    name: 'word_order',
    about: `In which order the bytes of a value cross the wire: ${wordOrders.join(', ')}. Empty: as the link has it.`,
    field: 'order',
    show: ({ order }) => (order as string | undefined) ?? null,
    put: (options, cell) =>
      set(
        orElse(cell, undefined, () => wordCell(cell, wordOrders, 'word order')),
        (order) => setOption(options, 'order', order),
      ),
  },
  {
    name: 'length',
    about: 'Bytes of a string.',
    field: 'length',
    show: ({ length }) => (length as number | undefined) ?? null,
    put: (options, cell, reading) =>
      set(
        orElse(cell, undefined, () => numberCell(cell, reading)),
        (length) => setOption(options, 'length', length),
      ),
  },
  {
    name: 'coding',
    about: 'Of a uint16 or uint32: bcd where each four bits are a decimal digit. Empty: a binary number.',
    field: 'coding',
    show: ({ coding }) => (coding as string | undefined) ?? null,
    put: (options, cell) =>
      set(
        orElse(cell, undefined, () => wordCell(cell, codings, 'coding')),
        (coding) => setOption(options, 'coding', coding),
      ),
  },
]

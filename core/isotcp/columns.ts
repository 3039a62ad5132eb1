import type { Column } from '../formats/column'
import { numberColumn, wordColumn } from '../formats/optionColumns'
import { byteOrders, forms, formText } from './layout'

/** What tables of tags have for points of controllers. */
export const isoTcpColumns: readonly Column<Record<string, unknown>>[] = [
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

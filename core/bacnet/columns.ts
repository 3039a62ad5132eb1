import { numberColumn, wordColumn } from '../formats/optionColumns'
import type { Column } from '../formats/column'
import { noticeKinds } from './settings'

/** What tables of tags have for points of building services. */
export const bacnetColumns: readonly Column<Record<string, unknown>>[] = [
  wordColumn(
    'notices',
    'notices',
    noticeKinds,
    'How changes are told: confirmed, unconfirmed or off. Empty: as the link has it; of other properties than present values, off.',
  ),
  numberColumn('increment', 'increment', 'The change that is worth a notification. Empty: as the object has it.'),
  numberColumn('priority', 'priority', 'At which it is written, 1 to 16. Empty: as the link has it.'),
]

import { wordColumn } from '../formats/optionColumns'
import type { Column } from '../formats/column'
import { textForms } from './settings'

/** What tables of tags have for values behind ports. */
export const ioLinkColumns: readonly Column<Record<string, unknown>>[] = [
  wordColumn('form', 'form', textForms, 'What letters are made of: text, or octets in hex. Empty: text.'),
]

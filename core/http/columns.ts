import { setOption, type Column } from '../formats/column'

type Options = Record<string, unknown>

const textColumn = (name: string, field: 'path' | 'time' | 'setBy', about: string): Column<Options> => ({
  name,
  about,
  field,
  show: (options) => (options[field] as string | undefined) ?? null,
  put: (options, cell) => {
    setOption(options, field, cell.trim() === '' ? undefined : cell.trim())
    return null
  },
})

/** What tables of tags have for points of links to web APIs. */
export const httpColumns: readonly Column<Options>[] = [
  textColumn('payload_path', 'path', 'Where in the answer the value is (JSONPath). Empty: the answer is the value.'),
  textColumn('time_path', 'time', 'Where in the answer it says when the value was made. Empty: when it came.'),
  textColumn(
    'set_by',
    'setBy',
    'The call by which written values are sent, with {value} among its parameters. Empty: it cannot be written.',
  ),
]

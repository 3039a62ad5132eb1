import { numberCell, orElse, set } from '../formats/cells'
import { setOption, type Column } from '../formats/column'

type Options = Record<string, unknown>

const textColumn = (name: string, field: 'path' | 'time' | 'setTopic', about: string): Column<Options> => ({
  name,
  about,
  field,
  show: (options) => (options[field] as string | undefined) ?? null,
  put: (options, cell) => {
    setOption(options, field, cell.trim() === '' ? undefined : cell.trim())
    return null
  },
})

/** What tables of tags have for points of MQTT links. */
export const mqttColumns: readonly Column<Options>[] = [
  textColumn('payload_path', 'path', 'Where in a JSON payload the value is (JSONPath). Empty: the payload is the value.'),
  textColumn('time_path', 'time', 'Where in a JSON payload it says when the value was made. Empty: when it came.'),
  textColumn('set_topic', 'setTopic', 'The topic to which written values are sent. Empty: the topic itself.'),
  {
    name: 'age',
    about: 'After so many milliseconds without a message the value is uncertain. Empty: as the link has it.',
    field: 'age',
    show: ({ age }) => (age as number | undefined) ?? null,
    put: (options, cell, reading) =>
      set(
        orElse(cell, undefined, () => numberCell(cell, reading)),
        (age) => setOption(options, 'age', age),
      ),
  },
]

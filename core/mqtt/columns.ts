import { numberCell, orElse, set, wordCell } from '../formats/cells'
import type { Layout } from '../messages/layout'
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

const bytesOf = (options: Options) => options.bytes as Layout | undefined

/** What tables of tags have for points of MQTT links. */
export const mqttColumns: readonly Column<Options>[] = [
  textColumn('payload_path', 'path', 'Where in a JSON payload the value is (JSONPath). Empty: the payload is the value.'),
  textColumn('time_path', 'time', 'Where in a JSON payload it says when the value was made. Empty: when it came.'),
  textColumn('set_topic', 'setTopic', 'The topic to which written values are sent. Empty: the topic itself.'),
  {
    name: 'byte',
    about: 'Where in the bytes of the payload the value lies, counted from 0. Empty: the payload is text or JSON.',
    field: 'bytes',
    show: (options) => bytesOf(options)?.at ?? null,
    put: (options, cell, reading) =>
      set(
        orElse(cell, undefined, () => numberCell(cell, reading)),
        (at) => setOption(options, 'bytes', at === undefined ? undefined : { order: 'big', ...bytesOf(options), at }),
      ),
  },
  {
    name: 'byte_order',
    about: 'Which byte of a number comes first: big or little.',
    field: 'bytes.order',
    show: (options) => bytesOf(options)?.order ?? null,
    put: (options, cell) =>
      set(
        orElse(cell, undefined, () => wordCell(cell, ['big', 'little'], 'byte order')),
        (order) => order && setOption(options, 'bytes', { at: 0, ...bytesOf(options), order }),
      ),
  },
  {
    name: 'written_as',
    about: 'As what values are written: plain, or json with value, time and quality.',
    field: 'send',
    show: ({ send }) => (send as string | undefined) ?? null,
    put: (options, cell) =>
      set(
        orElse(cell, undefined, () => wordCell(cell, ['plain', 'json'], 'form')),
        (send) => setOption(options, 'send', send),
      ),
  },
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

import { setOption, type Column } from '../formats/column'
import { numberCell, orElse, set, wordCell } from '../formats/cells'
import { deadbandKinds } from '../tags/reports'
import type { OpcuaPointOptions } from './settings'

type Options = Record<string, unknown>

const deadbandOf = (options: Options) => (options as OpcuaPointOptions).deadband

/** What tables of tags have for points of OPC UA links. */
export const opcuaColumns: readonly Column<Options>[] = [
  {
    name: 'member',
    about: 'The way into a structure or an array.',
    field: 'member',
    show: (options) => (options as OpcuaPointOptions).member ?? null,
    put: (options, cell) => {
      setOption(options, 'member', cell || undefined)
      return null
    },
  },
  {
    name: 'source_deadband',
    about: 'Changes smaller than this stay at the server.',
    field: 'deadband.value',
    show: (options) => deadbandOf(options)?.value ?? null,
    put: (options, cell, reading) =>
      set(
        orElse(cell, undefined, () => numberCell(cell, reading)),
        (value) =>
          setOption(options, 'deadband', value === undefined ? undefined : { kind: deadbandOf(options)?.kind ?? 'absolute', value }),
      ),
  },
  {
    name: 'source_deadband_kind',
    about: `Of what that is: ${deadbandKinds.join(' or ')} of the range.`,
    field: 'deadband.kind',
    show: (options) => deadbandOf(options)?.kind ?? null,
    put: (options, cell) => {
      const deadband = deadbandOf(options)
      if (cell === '') return null
      if (!deadband) return 'There is no deadband that this could be the kind of.'
      return set(wordCell(cell, deadbandKinds, 'kind of deadband'), (kind) => setOption(options, 'deadband', { ...deadband, kind }))
    },
  },
]

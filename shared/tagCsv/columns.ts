import { numberCell, orElse, set, wordCell } from '#core/formats/cells'
import type { Column } from '#core/formats/column'
import { linkKinds, protocolOf } from '#core/links/registry'
import { dataTypes } from '#core/tags/types'
import { limitsLine, readLimits, withTexts } from '#core/alarms/words'
import { namesText, readNames } from '#core/tags/valueNames'
import type { LinkNames } from '../sources/columns'
import { isFrom, rulesOf, sourceKinds, type SourceKind } from '../sources/registry'
import type { TagDraft } from '../tags'
import { scalingColumns } from './scalingColumns'
import { rawUnitColumn, shapingColumns } from './shapingColumns'

/** A column of a table of tags. */
export type TagColumn = Column<TagDraft, LinkNames>

const accessWords: Record<string, TagDraft['access']> = {
  read: 'read',
  r: 'read',
  readwrite: 'readwrite',
  rw: 'readwrite',
  'read and write': 'readwrite',
}

/** What every tag has, wherever its values come from. */
const common: TagColumn[] = [
  {
    name: 'path',
    about: 'Which tag it is: its folders and its name, divided by “/”.',
    field: 'path',
    show: ({ path }) => path,
    put: (tag, cell) => {
      tag.path = cell
      return null
    },
  },
  {
    name: 'source',
    about: `Where its values come from: ${sourceKinds.join(', ')}. Empty: a point, where a link is named.`,
    field: 'source.kind',
    show: ({ source }) => source.kind,
    put: () => null,
  },
  {
    name: 'type',
    about: 'The data type. Empty: what its address is by default.',
    field: 'type',
    show: ({ type }) => type,
    put: (tag, cell) => set(wordCell(cell, dataTypes, 'type'), (type) => (tag.type = type)),
  },
  {
    name: 'access',
    about: 'read, or readwrite.',
    field: 'access',
    show: ({ access }) => access,
    put: (tag, cell) => {
      const access = accessWords[cell.toLowerCase()]
      if (!access) return `“${cell}” is no access: read or readwrite.`
      tag.access = access
      return null
    },
  },
  ...scalingColumns,
  rawUnitColumn,
  {
    name: 'unit',
    about: 'The engineering unit.',
    field: 'unit',
    show: ({ unit }) => unit || null,
    put: (tag, cell) => {
      tag.unit = cell
      return null
    },
  },
  rangeEnd('low', 'Where values lie in normal operation, from'),
  rangeEnd('high', 'and to. Both, or neither'),
  {
    name: 'names',
    about: 'What single values are called, as in 0 = off; 1 = on. Of a truth value, 0 is false.',
    field: 'names',
    show: ({ names }) => namesText(names) || null,
    put: (tag, cell) => set(readNames(cell), (names) => (tag.names = names)),
  },
  {
    name: 'limits',
    about: 'From where on it is an alarm, as in high 90 back 2 after 5s trouble; low 10; jammed: is 3 quiet.',
    field: 'limits',
    show: ({ limits }) => limitsLine(limits) || null,
    put: (tag, cell) => set(readLimits(cell), (limits) => (tag.limits = withTexts(limits, tag.limits))),
  },
  ...shapingColumns,
  {
    name: 'description',
    about: 'What it is, in words.',
    field: 'description',
    show: ({ description }) => description || null,
    put: (tag, cell) => {
      tag.description = cell
      return null
    },
  },
]

/** An end that is not there yet is no number, which the contract refuses unless the other column brings it. */
function rangeEnd(end: 'low' | 'high', about: string): TagColumn {
  const other = end === 'low' ? 'high' : 'low'
  return {
    name: end,
    about: `${about}.`,
    field: `range.${end}`,
    show: ({ range }) => range?.[end] ?? null,
    put: (tag, cell, reading) =>
      set(
        orElse(cell, NaN, () => numberCell(cell, reading)),
        (value) => {
          const range = { [end]: value, [other]: tag.range?.[other] ?? NaN } as { low: number; high: number }
          tag.range = Number.isNaN(range.low) && Number.isNaN(range.high) ? null : range
        },
      ),
  }
}

/** Whose a column is of those that only some tags have. */
interface Whose {
  column: Column<object, LinkNames>
  owner: object
}

/** A column that only some tags have, by what their values come from: elsewhere it is empty. */
const ofSome = (
  name: string,
  columns: readonly Column<never, LinkNames>[],
  whoseOf: (tag: TagDraft, links: LinkNames) => Whose | null,
): TagColumn => ({
  name,
  about: columns[0]!.about,
  field: columns[0]!.field,
  show: (tag, links) => {
    const whose = whoseOf(tag, links)
    return whose ? whose.column.show(whose.owner, links) : null
  },
  put: (tag, cell, reading) => {
    const whose = whoseOf(tag, reading.context)
    if (whose) return whose.column.put(whose.owner, cell, reading)
    return cell === '' ? null : `A tag of this kind has no ${name.replaceAll('_', ' ')}.`
  },
})

/** The columns of several owners, by name: owners may share one. */
const byName = <K extends string>(owners: readonly K[], columnsOf: (owner: K) => readonly { name: string }[]) => {
  const found = new Map<string, Map<K, Column<object, LinkNames>>>()
  for (const owner of owners)
    for (const column of columnsOf(owner)) {
      const columns = found.get(column.name) ?? new Map<K, Column<object, LinkNames>>()
      columns.set(owner, column as Column<object, LinkNames>)
      found.set(column.name, columns)
    }
  return found
}

const ofSources = [...byName(sourceKinds, (kind) => rulesOf(kind).columns)].map(([name, byKind]) =>
  ofSome(name, [...byKind.values()], ({ source }) => {
    const column = byKind.get(source.kind)
    return column ? { column, owner: source } : null
  }),
)

const ofOptions = [...byName(linkKinds, (kind) => protocolOf(kind).columns)].map(([name, byKind]) =>
  ofSome(name, [...byKind.values()], (tag, { linkOf }) => {
    const link = isFrom('point', tag) ? linkOf(tag.source.linkId) : undefined
    const column = link && byKind.get(link.kind)
    return column && isFrom('point', tag) ? { column, owner: tag.source.options } : null
  }),
)

const [path, source, ...rest] = common
/** Every column, in the order in which files have them. What a cell means depends on those before it. */
export const tagColumns: readonly TagColumn[] = [path!, source!, ...ofSources, ...rest, ...ofOptions]

const columnsByName = new Map(tagColumns.map((column) => [column.name, column]))
export const columnNamed = (name: string): TagColumn | undefined => columnsByName.get(name)

/** Under which column a message about a field belongs; null: under none. */
export const columnOfField = (field: string): string | null => {
  const inner = field.replace(/^source\.(options\.)?/, '')
  const fits = (own: string) => own === field || own === inner || own.startsWith(`${inner}.`) || field.startsWith(`${own}.`)
  return tagColumns.find((column) => fits(column.field))?.name ?? null
}

export const sourceKindOf = (cell: string): SourceKind | undefined => sourceKinds.find((kind) => kind === cell.toLowerCase())

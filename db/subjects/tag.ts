import type { Generated, JSONColumnType } from 'kysely'
import { itemText } from '#core/records/items'
import type { Scaling } from '#core/tags/curve'
import type { OddValues } from '#core/tags/odd'
import type { Reports } from '#core/tags/reports'
import type { SourceKind, TagSource } from '#shared/sources/registry'
import { tagDraft, type TagDraft } from '#shared/tags'
import { isRecord, subject, withVisible, type Stored } from './definition'

export interface TagTable {
  id: Generated<number>
  path: string
  source: SourceKind
  /** Of sources that belong to a link. */
  link_id: number | null
  /** Of those that a record set makes. */
  set_id: number | null
  /** Of those that are properties of equipment. */
  equipment_id: number | null
  address: string
  interval: number | null
  type: TagDraft['type']
  /** What the source needs besides. */
  options: JSONColumnType<Record<string, unknown>>
  access: TagDraft['access']
  scaling: JSONColumnType<Scaling & object> | null
  odd: JSONColumnType<OddValues & object> | null
  raw_unit: string
  unit: string
  reports: JSONColumnType<Reports & object> | null
  accepted: JSONColumnType<TagDraft['accepted']>
  range: JSONColumnType<{ low: number; high: number }> | null
  names: JSONColumnType<TagDraft['names']>
  limits: JSONColumnType<TagDraft['limits']>
  description: string
  revision: number
}

export const tag = subject<TagTable>()({
  contract: tagDraft,
  nameOf: ({ path }) => path,
  text: { section: 'tags', key: 'path' },
  needs: ['link', 'recordSet', 'equipment'],
  toColumns: toTagColumns,
  /** A range came with migration 005, sources with 008, odd values, reports and the raw unit with 011, names with 019, limits with 022. */
  broughtUp: (stored) => ({
    range: null,
    odd: null,
    reports: null,
    accepted: [],
    names: [],
    limits: [],
    ...withVisible(withSource(withRawUnit(stored)), 'path'),
  }),
})

/** In the table its name is another. */
const withRawUnit = ({ raw_unit, rawUnit = raw_unit ?? '', ...stored }: Stored): Stored => ({ ...stored, rawUnit })

/** Field by field: taking an object apart by a pattern costs ten times as much, and tables have tens of thousands of tags. */
function toTagColumns(fields: Partial<TagDraft>): Stored {
  const columns: Stored = {}
  for (const key in fields) {
    if (key === 'source' && fields.source) Object.assign(columns, columnsOf(fields.source))
    else columns[key === 'rawUnit' ? 'raw_unit' : key] = fields[key as keyof TagDraft]
  }
  return columns
}

/** What lists search and filter by has columns of its own; all else of a source is in its options. */
const columnsOf = (source: TagSource): Stored => {
  if (source.kind === 'point') {
    const { kind, linkId, address, interval, options } = source
    return { source: kind, ...ofNone, link_id: linkId, address, interval, options }
  }
  if (source.kind === 'record') {
    const { kind, recordSetId, ...options } = source
    return { source: kind, ...ofNone, set_id: recordSetId, address: itemText(options), interval: null, options }
  }
  if (source.kind === 'property') {
    const { kind, equipmentId, ...options } = source
    return { source: kind, ...ofNone, equipment_id: equipmentId, address: options.property, interval: null, options }
  }
  const { kind, ...options } = source
  return { source: kind, ...ofNone, address: '', interval: null, options }
}
const ofNone = { link_id: null, set_id: null, equipment_id: null }

/** A row, or a tag as it was when all of them were points of links, with its source in one piece. */
const withSource = (stored: Stored): Stored => {
  if (isRecord(stored.source)) return stored
  const { source = 'point', link_id, linkId = link_id, set_id, equipment_id, address, interval = null, options, ...rest } = stored
  if (source === 'record') return { ...rest, source: { kind: source, recordSetId: set_id, ...(isRecord(options) ? options : {}) } }
  if (source === 'property') return { ...rest, source: { kind: source, equipmentId: equipment_id, ...(isRecord(options) ? options : {}) } }
  if (source !== 'point') return { ...rest, source: { kind: source, ...(isRecord(options) ? options : {}) } }
  return { ...rest, source: { kind: source, linkId, address, interval, options } }
}

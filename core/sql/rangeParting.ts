import { quotedName } from './quoted'
import { spanAt, spansAhead, type Parting, type Span } from './parting'

/**
 * Tables that are parted by time in MySQL and MariaDB (RANGE COLUMNS partitioning): their parts lie one behind the other, each
 * up to its bound, so that what comes late falls into the oldest there is, and new ones can only be made behind the last.
 */

export interface RangePart {
  name: string
  /** Unix milliseconds, excluding; Infinity: it takes all that comes. */
  to: number
}

/** So many are made at once for a time that lies ahead; what is further away is refused. */
export const mostAtOnce = 62

const quoted = (name: string) => quotedName(name, 'mysql')
const boundText = (time: number) => `'${new Date(time).toISOString().slice(0, 19).replace('T', ' ')}'`
const partText = (name: string, to: number) => `partition ${quoted(name)} values less than (${boundText(to)})`
const partName = ({ suffix }: Span) => `p${suffix}`
const earlier = 'p_earlier'

const placed = (schema: string, name: string) => [schema, name].filter(Boolean).map(quoted).join('.')

/** How a table is made, behind its columns: with one part for what was before, and that of now. */
export const rangePartingText = (column: string, per: Parting['per'], now: number): string => {
  const span = spanAt(now, per)
  return ` partition by range columns (${quoted(column)}) (\n  ${partText(earlier, span.from)},\n  ${partText(partName(span), span.to)}\n)`
}

/** A bound as the catalogue has it (INFORMATION_SCHEMA.PARTITIONS, PARTITION_DESCRIPTION); null: it is no time. */
export const readBound = (text: string): number | null => {
  if (text === 'MAXVALUE') return Infinity
  const match = /^'(\d{4}-\d\d-\d\d)(?: (\d\d:\d\d:\d\d(?:\.\d+)?))?'$/.exec(text)
  const time = match ? Date.parse(`${match[1]}T${match[2] ?? '00:00:00'}Z`) : NaN
  return Number.isNaN(time) ? null : time
}

/** What is still to be made so that there is a part for each of these times, and so many ahead. */
export const spansMissing = (highest: number, times: readonly number[], parting: Pick<Parting, 'per' | 'ahead'>, now: number): Span[] => {
  if (highest === Infinity) return []
  const { per, ahead } = parting
  const furthest = spansAhead(now, { per, ahead: Math.max(ahead, mostAtOnce) }).at(-1)!.to
  const upTo = Math.max(spansAhead(now, parting).at(-1)!.to, ...times.map((time) => spanAt(time, per).to).filter((to) => to <= furthest))
  const spans: Span[] = []
  // a table without rows for years is not given a part for each day of them
  for (let span = spanAt(Math.max(highest, spanAt(now, per).from), per); span.to <= upTo; span = spanAt(span.to, per))
    if (span.to > highest) spans.push(span)
  return spans
}

export const addPartsStatement = ({ schema, table }: { schema: string; table: string }, spans: readonly Span[]): string =>
  `alter table ${placed(schema, table)} add partition (${spans.map((span) => partText(partName(span), span.to)).join(', ')})`

export const dropPartsStatement = ({ schema, table }: { schema: string; table: string }, names: readonly string[]): string =>
  `alter table ${placed(schema, table)} drop partition ${names.map(quoted).join(', ')}`

const ours = /^p(_earlier|\d{4}_\d\d(_\d\d)?)$/

/** Those that end before the oldest that is kept; others than ours are left alone, and the last of all stays. */
export const outdatedRanges = (parts: readonly RangePart[], { keep }: Pick<Parting, 'keep'>, now: number): string[] => {
  if (keep === null) return []
  const before = now - keep * 86_400_000
  return parts
    .slice(0, -1)
    .filter(({ name, to }) => ours.test(name) && to <= before)
    .map(({ name }) => name)
}

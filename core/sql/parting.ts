import { quotedName } from './quoted'

/** Tables that are parted by time (PostgreSQL, 5.12 Table Partitioning): which parts there are to be, and how they are made. */

export interface Parting {
  column: string
  per: 'day' | 'month'
  ahead: number
  keep: number | null
}

export interface Span {
  /** Of the part, behind the name of its table: 2026_11, or 2026_11_26. */
  suffix: string
  /** Unix milliseconds; from and including, to and excluding. */
  from: number
  to: number
}

/** The part that a time falls into. Days and months are those of UTC. */
export const spanAt = (time: number, per: Parting['per']): Span => {
  const date = new Date(time)
  const [year, month, day] = [date.getUTCFullYear(), date.getUTCMonth(), date.getUTCDate()]
  const from = per === 'day' ? Date.UTC(year, month, day) : Date.UTC(year, month, 1)
  const to = per === 'day' ? Date.UTC(year, month, day + 1) : Date.UTC(year, month + 1, 1)
  const suffix = new Date(from)
    .toISOString()
    .slice(0, per === 'day' ? 10 : 7)
    .replaceAll('-', '_')
  return { suffix, from, to }
}

/** The present one and so many after it. */
export const spansAhead = (now: number, { per, ahead }: Pick<Parting, 'per' | 'ahead'>): Span[] => {
  const spans = [spanAt(now, per)]
  while (spans.length <= ahead) spans.push(spanAt(spans.at(-1)!.to, per))
  return spans
}

/** Names are cut so that the suffix stays whole within the 63 bytes that they may have. */
const partName = (table: string, suffix: string) => `${cutTo(table, 62 - suffix.length)}_${suffix}`

const cutTo = (text: string, bytes: number): string => {
  const encoder = new TextEncoder()
  let cut = text
  while (encoder.encode(cut).length > bytes) cut = cut.slice(0, -1)
  return cut
}

const placed = (schema: string, name: string) =>
  [schema, name]
    .filter(Boolean)
    .map((part) => quotedName(part, 'postgresql'))
    .join('.')
const timeText = (time: number) => `'${new Date(time).toISOString()}'`

export const partStatement = ({ schema, table }: { schema: string; table: string }, { suffix, from, to }: Span): string =>
  `create table if not exists ${placed(schema, partName(table, suffix))} partition of ${placed(schema, table)} ` +
  `for values from (${timeText(from)}) to (${timeText(to)})`

export const dropStatement = (schema: string, part: string): string => `drop table if exists ${placed(schema, part)}`

/** Of the parts of a table by their names, those that end before the oldest that is kept; others than ours are left alone. */
export const outdated = (table: string, parts: readonly string[], { per, keep }: Parting, now: number): string[] => {
  if (keep === null) return []
  const before = now - keep * 86_400_000
  return parts.filter((part) => {
    const match = per === 'day' ? /_(\d{4})_(\d\d)_(\d\d)$/.exec(part) : /_(\d{4})_(\d\d)$/.exec(part)
    if (!match) return false
    const span = spanAt(Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3] ?? 1)), per)
    return part === partName(table, span.suffix) && span.to <= before
  })
}

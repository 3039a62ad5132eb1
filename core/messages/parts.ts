import { isIsoTime, moment } from './moment'
import type { DataType } from '../tags/types'

/** One part of a JSON payload, by the way to it. */
export interface Part {
  /** JSONPath (RFC 9535); empty: the payload itself. */
  path: string
  names: readonly string[]
  value: unknown
  opens: boolean
}

/** So deep and so many: a payload of a stranger may have anything. */
const deepest = 12
const most = 2000

const isPlain = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value)

/** What lies directly in a part. */
export const partsIn = ({ path, names, value }: Pick<Part, 'path' | 'names' | 'value'>): Part[] => {
  const root = path === '' ? '$' : path
  if (Array.isArray(value)) return value.slice(0, most).map((one: unknown, i) => partOf(`${root}[${i}]`, [...names, String(i)], one))
  if (!isPlain(value)) return []
  return Object.entries(value)
    .slice(0, most)
    .map(([name, one]) => partOf(`${root}${stepText(name)}`, [...names, name], one))
}

/** All parts that have a value of their own, in the order of the payload. */
export const leavesIn = (value: unknown): Part[] => {
  const found: Part[] = []
  const walk = (part: Part, depth: number) => {
    if (found.length >= most) return
    if (!part.opens) return void found.push(part)
    if (depth < deepest) for (const inner of partsIn(part)) walk(inner, depth + 1)
  }
  walk(partOf('', [], value), 0)
  return found
}

const partOf = (path: string, names: readonly string[], value: unknown): Part => ({
  ...{ path, names, value },
  opens: typeof value === 'object' && value !== null,
})

/** A name as a step of a path: short where the grammar allows it (RFC 9535, 2.5.1.1). */
const stepText = (name: string) =>
  /^[A-Za-z_\u0080-\uffff][A-Za-z0-9_\u0080-\uffff]*$/.test(name)
    ? `.${name}`
    : `['${name
        .replace(/\\/g, '\\\\')
        .replace(/'/g, "\\'")
        .replace(/\p{Cc}/gu, (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`)}']`

/** The type that a value of JSON suggests; null: it is none that a tag can have. */
export const typeSuggested = (value: unknown): DataType | null => {
  if (typeof value === 'boolean') return 'bool'
  if (typeof value === 'number') return 'float64'
  if (typeof value === 'bigint') return value > 2n ** 63n - 1n ? 'uint64' : 'int64'
  if (typeof value === 'string') return isIsoTime(value) ? 'datetime' : 'string'
  return null
}

const timeNames = new Set(['time', 'timestamp', 'ts', 'at', 'datetime', 'date_time', 'sourcetime', 'source_time', 'measured_at'])

/** Where a payload seems to say when it was made; empty: it does not. */
export const timeSuggested = (value: unknown): string =>
  partsIn({ path: '', names: [], value }).find(
    ({ names, value: one }) => timeNames.has(names[0]!.toLowerCase()) && typeof one !== 'object' && moment(one) !== null,
  )?.path ?? ''

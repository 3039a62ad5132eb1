import { explain } from '#core/diagnosis/codes/explain'
import type { Measured } from '#core/statistics/meter'
import { duration } from '#core/text/duration'
import type { AllStatistics, MeasuredKind } from '#shared/statistics'
import { sizeText } from '#core/text/sizeText'

export interface StatisticsRow {
  key: string
  of: MeasuredKind
  id: number
  name: string
  isPart: boolean
  requests: string
  failures: string
  /** The code that it failed with most often; empty: it did not fail. */
  cause: string
  /** Whether the code has an explanation of its own. */
  isExplained: boolean
  /** Half, 95 % and 99 % within, and the longest. */
  times: string[]
  busy: string
  bytesIn: string
  bytesOut: string
  connections: string
}

const grouped = (n: number) => n.toLocaleString('en-GB')

const timeText = (ms: number | null) => (ms === null ? '—' : duration(ms))

const worstOf = (causes: Record<string, number>) => Object.entries(causes).toSorted(([, a], [, b]) => b - a)[0]?.[0] ?? ''

const measuredText = ({ requests, failures, causes, p50, p95, p99, most, busy }: Measured) => ({
  requests: grouped(requests),
  failures: grouped(failures),
  cause: worstOf(causes),
  isExplained: explain(worstOf(causes)).length > 0,
  times: [p50, p95, p99, most].map(timeText),
  busy: `${(busy * 100).toFixed(busy < 0.1 ? 1 : 0)} %`,
})

interface Counted {
  of: MeasuredKind
  id: number
  name: string
  whole: Measured
  parts: readonly { name: string; measured: Measured }[]
  bytesIn?: number
  bytesOut?: number
  connections?: number
}

/** Links, outlets and bridges, each with its parts: units, clients, receivers. */
const countedOf = ({ links, outlets, bridges }: AllStatistics): Counted[] => [
  ...links.map((link): Counted => ({ of: 'link', ...link })),
  ...outlets.map((outlet): Counted => ({
    ...{ of: 'outlet', ...outlet },
    parts: outlet.clients.map(({ client, measured }) => ({ name: `${client.name} (${client.from})`, measured })),
  })),
  ...bridges.map((bridge): Counted => ({ of: 'bridge', ...bridge })),
]

const orNothing = (n: number | undefined, text: (n: number) => string) => (n === undefined ? '' : text(n))

/** A row for each of them, those of its parts below it. @param find words that the name of the whole or the part holds @param only of this kind; null: of all */
export const statisticsRows = (all: AllStatistics, find: string | null, only: MeasuredKind | null = null): StatisticsRow[] => {
  const words = (find ?? '').toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (text: string) => words.every((word) => text.toLowerCase().includes(word))
  return countedOf(all).flatMap(({ of, id, name, whole, parts, ...passed }) => {
    const shown = parts.filter((part) => fits(`${name} ${part.name}`))
    if ((only && of !== only) || (!fits(name) && shown.length === 0)) return []
    const row = { key: `${of} ${id}`, of, id, name, isPart: false, ...measuredText(whole) }
    return [
      {
        ...row,
        ...{ bytesIn: orNothing(passed.bytesIn, sizeText), bytesOut: orNothing(passed.bytesOut, sizeText) },
        connections: orNothing(passed.connections, grouped),
      },
      ...shown.map((part, i) => ({
        ...{ key: `${of} ${id} ${i} ${part.name}`, of, id, name: part.name, isPart: true, ...measuredText(part.measured) },
        ...{ bytesIn: '', bytesOut: '', connections: '' },
      })),
    ]
  })
}

export const placeOfMeasured = { link: '/links', outlet: '/outlets', bridge: '/bridges' } as const

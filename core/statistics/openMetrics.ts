import type { Measured } from './meter'

/** One that was measured, with what tells it from others. */
export interface MeasuredPart {
  labels: Record<string, string>
  measured: Measured
  /** Of whole links only. */
  more?: { bytesIn: number; bytesOut: number; connections: number; isFlowing: boolean; tags: number; goodTags: number }
}

type Sample = [suffix: string, labels: Record<string, string>, value: number]

interface Family {
  name: string
  type: 'counter' | 'gauge' | 'summary'
  unit?: string
  help: string
  of(part: MeasuredPart): Sample[]
}

const quantiles = [
  ['0.5', 'p50'],
  ['0.95', 'p95'],
  ['0.99', 'p99'],
] as const

const families: Family[] = [
  {
    ...{ name: 'conduit_link_up', type: 'gauge', help: 'Whether a link flows.' },
    of: ({ labels, more }) => (more ? [['', labels, more.isFlowing ? 1 : 0]] : []),
  },
  {
    ...{ name: 'conduit_link_tags', type: 'gauge', help: 'Tags of a link, and those of them that are good.' },
    of: ({ labels, more }) =>
      more
        ? [
            ['', { ...labels, which: 'all' }, more.tags],
            ['', { ...labels, which: 'good' }, more.goodTags],
          ]
        : [],
  },
  {
    ...{ name: 'conduit_link_requests', type: 'counter', help: 'Requests to the far side.' },
    of: ({ labels, measured }) => [['_total', labels, measured.requests]],
  },
  {
    ...{ name: 'conduit_link_failures', type: 'counter', help: 'Requests that failed, by the code of why.' },
    of: ({ labels, measured }) => Object.entries(measured.causes).map(([code, count]): Sample => ['_total', { ...labels, code }, count]),
  },
  {
    ...{ name: 'conduit_link_answer_seconds', type: 'summary', unit: 'seconds', help: 'How long answers took.' },
    of: ({ labels, measured }) => [
      ...quantiles.flatMap(([quantile, of]): Sample[] =>
        measured[of] === null ? [] : [['', { ...labels, quantile }, measured[of] / 1000]],
      ),
      ['_count', labels, measured.answers],
      ['_sum', labels, ((measured.mean ?? 0) * measured.answers) / 1000],
    ],
  },
  {
    ...{ name: 'conduit_link_busy_ratio', type: 'gauge', unit: 'ratio', help: 'The share of the time in which it was answering.' },
    of: ({ labels, measured }) => [['', labels, measured.busy]],
  },
  {
    ...{ name: 'conduit_link_bytes', type: 'counter', unit: 'bytes', help: 'Bytes over the wire of a link, by direction.' },
    of: ({ labels, more }) =>
      more
        ? [
            ['_total', { ...labels, way: 'in' }, more.bytesIn],
            ['_total', { ...labels, way: 'out' }, more.bytesOut],
          ]
        : [],
  },
  {
    ...{ name: 'conduit_link_connections', type: 'counter', help: 'Connections that a link made.' },
    of: ({ labels, more }) => (more ? [['_total', labels, more.connections]] : []),
  },
]

/** Label values (OpenMetrics 1.0, 3.2.1): these three are escaped. */
const escaped = (text: string) => text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n')
const labelText = (labels: Record<string, string>) =>
  Object.entries(labels)
    .map(([name, value]) => `${name}="${escaped(value)}"`)
    .join(',')

/** Measurements as OpenMetrics 1.0 text: families that have samples, each with what it is, and the end. */
export const openMetrics = (parts: readonly MeasuredPart[]): string => {
  const lines: string[] = []
  for (const { name, type, unit, help, of } of families) {
    const samples = parts.flatMap(of)
    if (samples.length === 0) continue
    lines.push(`# TYPE ${name} ${type}`, ...(unit ? [`# UNIT ${name} ${unit}`] : []), `# HELP ${name} ${help}`)
    for (const [suffix, labels, value] of samples) lines.push(`${name}${suffix}{${labelText(labels)}} ${value}`)
  }
  return `${[...lines, '# EOF'].join('\n')}\n`
}

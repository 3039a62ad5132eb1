import type { Measured } from './meter'

/** One that was measured, with what tells it from others. */
export interface MeasuredPart {
  /** Of what it is. */
  of: 'link' | 'outlet' | 'bridge'
  labels: Record<string, string>
  measured: Measured
  /** Of whole links, outlets and bridges only. */
  more?: {
    isFlowing: boolean
    bytesIn?: number
    bytesOut?: number
    connections?: number
    tags?: number
    goodTags?: number
    clients?: number
  }
}

type Sample = [suffix: string, labels: Record<string, string>, value: number]

interface Family {
  /** What follows the kind in its name. */
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

/** A sample where there is a number. */
const sample = (suffix: string, labels: Record<string, string>, value: number | undefined): Sample[] =>
  value === undefined ? [] : [[suffix, labels, value]]

const families: Family[] = [
  {
    ...{ name: 'up', type: 'gauge', help: 'Whether it flows.' },
    of: ({ labels, more }) => (more ? [['', labels, more.isFlowing ? 1 : 0]] : []),
  },
  {
    ...{ name: 'tags', type: 'gauge', help: 'Tags, and those of them that are good.' },
    of: ({ labels, more }) => [
      ...sample('', { ...labels, which: 'all' }, more?.tags),
      ...sample('', { ...labels, which: 'good' }, more?.goodTags),
    ],
  },
  {
    ...{ name: 'clients', type: 'gauge', help: 'Clients that are connected.' },
    of: ({ labels, more }) => sample('', labels, more?.clients),
  },
  {
    ...{ name: 'requests', type: 'counter', help: 'Requests.' },
    of: ({ labels, measured }) => [['_total', labels, measured.requests]],
  },
  {
    ...{ name: 'failures', type: 'counter', help: 'Requests that failed, by the code of why.' },
    of: ({ labels, measured }) => Object.entries(measured.causes).map(([code, count]): Sample => ['_total', { ...labels, code }, count]),
  },
  {
    ...{ name: 'answer_seconds', type: 'summary', unit: 'seconds', help: 'How long answers took.' },
    of: ({ labels, measured }) => [
      ...quantiles.flatMap(([quantile, of]): Sample[] =>
        measured[of] === null ? [] : [['', { ...labels, quantile }, measured[of] / 1000]],
      ),
      ['_count', labels, measured.answers],
      ['_sum', labels, ((measured.mean ?? 0) * measured.answers) / 1000],
    ],
  },
  {
    ...{ name: 'busy_ratio', type: 'gauge', unit: 'ratio', help: 'The share of the time in which it was answering.' },
    of: ({ labels, measured }) => [['', labels, measured.busy]],
  },
  {
    ...{ name: 'bytes', type: 'counter', unit: 'bytes', help: 'Bytes over the wire, by direction.' },
    of: ({ labels, more }) => [
      ...sample('_total', { ...labels, way: 'in' }, more?.bytesIn),
      ...sample('_total', { ...labels, way: 'out' }, more?.bytesOut),
    ],
  },
  {
    ...{ name: 'connections', type: 'counter', help: 'Connections that were made.' },
    of: ({ labels, more }) => sample('_total', labels, more?.connections),
  },
]

/** Label values (OpenMetrics 1.0, 3.2.1): these three are escaped. */
const escaped = (text: string) => text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n')
const labelText = (labels: Record<string, string>) =>
  Object.entries(labels)
    .map(([name, value]) => `${name}="${escaped(value)}"`)
    .join(',')

/** What is told of the site itself. */
export interface SiteGauges {
  concerns: { now: number; soon: number }
  disks: readonly { name: string; bytes: number; freeBytes: number }[]
}

const gaugesOf = ({ concerns, disks }: SiteGauges): string[] => [
  '# TYPE conduit_site_concerns gauge',
  '# HELP conduit_site_concerns What somebody has to see to, by urgency.',
  ...(['now', 'soon'] as const).map((urgency) => `conduit_site_concerns{${labelText({ urgency })}} ${concerns[urgency]}`),
  '# TYPE conduit_site_disk_bytes gauge',
  '# UNIT conduit_site_disk_bytes bytes',
  '# HELP conduit_site_disk_bytes Disks that the site keeps its state on: all, and free.',
  ...disks.flatMap(({ name, bytes, freeBytes }) => [
    `conduit_site_disk_bytes{${labelText({ disk: name, which: 'all' })}} ${bytes}`,
    `conduit_site_disk_bytes{${labelText({ disk: name, which: 'free' })}} ${freeBytes}`,
  ]),
]

/** Measurements as OpenMetrics 1.0 text: families that have samples, each with what it is, and the end. */
export const openMetrics = (parts: readonly MeasuredPart[], site: SiteGauges | null = null): string => {
  const lines = kinds.flatMap((kind) => {
    const its = parts.filter(({ of }) => of === kind)
    return families.flatMap((family) => linesOf(`conduit_${kind}_${family.name}`, family, its))
  })
  return `${[...lines, ...(site ? gaugesOf(site) : []), '# EOF'].join('\n')}\n`
}

const kinds = ['link', 'outlet', 'bridge'] as const

const linesOf = (name: string, { type, unit, help, of }: Family, parts: readonly MeasuredPart[]): string[] => {
  const samples = parts.flatMap(of)
  if (samples.length === 0) return []
  const head = [`# TYPE ${name} ${type}`, ...(unit ? [`# UNIT ${name} ${unit}`] : []), `# HELP ${name} ${help}`]
  return [...head, ...samples.map(([suffix, labels, value]) => `${name}${suffix}{${labelText(labels)}} ${value}`)]
}

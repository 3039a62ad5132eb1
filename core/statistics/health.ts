import type { DataType, TagValue } from '../tags/types'
import type { Course } from './course'
import type { Measured } from './meter'

export const healthKinds = ['link', 'outlet', 'bridge'] as const
export type HealthKind = (typeof healthKinds)[number]

/** How one link, outlet or bridge is, as a tag may show it. */
export interface HealthSubject {
  of: HealthKind
  name: string
  /** off, broken, late or flowing. */
  flow: string
  sentence: string
  measured: Measured
  course: Course
  /** One of its units, clients or receivers; null: nothing is known of such a one. */
  part(name: string): Measured | null
  /** What only some kinds have, by the name of the fact. */
  more: Partial<Record<HealthFactName, number>>
}

interface HealthFact {
  about: string
  type: DataType
  unit: string
  /** Of which kinds; absent: of all. */
  kinds?: readonly HealthKind[]
  /** Of parts, too. */
  measured?(measured: Measured): number | null
  whole?(subject: HealthSubject, now: number): TagValue | null
}

const codes: Record<string, number> = { off: 0, broken: 1, late: 2, flowing: 3 }
const minuteMs = 60_000

/** The last whole minute; before there is one, none. */
const lastMinute = ({ course }: HealthSubject, now: number) => {
  const minute = course.told(now).findLast(({ at }) => at <= now - minuteMs)
  return minute && now - minute.at < 2 * minuteMs ? minute : { requests: 0, failures: 0 }
}
const count = (about: string, measured: (measured: Measured) => number): HealthFact => ({ about, type: 'uint32', unit: '', measured })
const time = (about: string, measured: (measured: Measured) => number | null): HealthFact => ({
  about,
  type: 'float64',
  unit: 'ms',
  measured,
})
const more = (about: string, type: DataType, unit: string, ...kinds: HealthKind[]): HealthFact => ({ about, type, unit, kinds })

/** What health tags may show. Names are part of the configuration: none of them changes. */
export const healthFacts = {
  flows: { about: 'whether it flows', type: 'bool', unit: '', whole: ({ flow }) => flow === 'flowing' },
  state: { about: 'off, broken, late or flowing', type: 'string', unit: '', whole: ({ flow }) => flow },
  state_code: { about: '0 off, 1 broken, 2 late, 3 flowing', type: 'uint8', unit: '', whole: ({ flow }) => codes[flow] ?? null },
  sentence: { about: 'what is happening, in words', type: 'string', unit: '', whole: ({ sentence }) => sentence },
  requests: count('requests since counting began', ({ requests }) => requests),
  answers: count('answers, whatever they said', ({ answers }) => answers),
  failures: count('requests that failed', ({ failures }) => failures),
  requests_per_minute: {
    about: 'of the last whole minute',
    type: 'uint32',
    unit: '1/min',
    whole: (subject, now) => lastMinute(subject, now).requests,
  },
  failures_per_minute: {
    about: 'of the last whole minute',
    type: 'uint32',
    unit: '1/min',
    whole: (subject, now) => lastMinute(subject, now).failures,
  },
  answer_mean: time('how long answers take on average', ({ mean }) => mean),
  answer_p50: time('half of the answers take no longer', ({ p50 }) => p50),
  answer_p95: time('95 % of the answers take no longer', ({ p95 }) => p95),
  answer_p99: time('99 % of the answers take no longer', ({ p99 }) => p99),
  answer_longest: time('the longest answer', ({ most }) => most),
  busy: { about: 'the share of the time in which it is answering', type: 'float64', unit: '%', measured: ({ busy }) => busy * 100 },
  tags: more('tags', 'uint32', '', 'link'),
  good_tags: more('tags with a good value', 'uint32', '', 'link'),
  clients: more('clients that are connected', 'uint32', '', 'outlet'),
  items: more('items that clients follow', 'uint32', '', 'outlet'),
  changes_per_second: more('changes told to clients', 'float64', '1/s', 'outlet'),
  runs: more('runs since it was switched on', 'uint32', '', 'bridge'),
  waiting: more('records that wait', 'uint32', '', 'bridge'),
  refused: more('records that were refused and lie aside', 'uint32', '', 'bridge'),
  bytes_in: more('bytes that came', 'float64', 'B', 'link', 'outlet'),
  bytes_out: more('bytes that went', 'float64', 'B', 'link', 'outlet'),
  connections: more('connections that were made', 'uint32', '', 'link', 'outlet'),
} as const satisfies Record<string, HealthFact>

export type HealthFactName = keyof typeof healthFacts
export const healthFactNames = Object.keys(healthFacts) as [HealthFactName, ...HealthFactName[]]
export const healthFactOf = (name: HealthFactName): HealthFact => healthFacts[name]

/** Whether parts of something have this fact. */
export const isOfParts = (name: HealthFactName): boolean => healthFactOf(name).measured !== undefined
/** Whether things of this kind have this fact. */
export const isOfKind = (name: HealthFactName, kind: HealthKind): boolean => healthFactOf(name).kinds?.includes(kind) ?? true

/** What a tag shows now; null: there is nothing to be shown yet. @param part empty: the whole */
export const healthValue = (subject: HealthSubject, name: HealthFactName, part: string, now: number): TagValue | null => {
  const { measured, whole } = healthFactOf(name)
  if (measured) {
    const of = part === '' ? subject.measured : subject.part(part)
    return of ? measured(of) : null
  }
  return whole ? whole(subject, now) : (subject.more[name] ?? null)
}

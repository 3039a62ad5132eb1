import type { Kysely } from 'kysely'
import type { PastSample } from '#core/history/pastTable'
import { bringIn } from '#db/history/bringIn'
import type { Database } from '#db/tables'

/** What happened at the port before anybody looked: a day and a half of calls, so that trends do not begin empty. */

const hourMs = 3_600_000
const lasts = 36 * hourMs
const every = 10_000
/** What is fresher comes from the port itself. */
const endsBefore = 15_000

interface Call {
  /** Hours between two calls, and hours that one takes; the last one goes on. */
  period: number
  stay: number
  /** kW when the ship has settled, and how far it swings. */
  load: number
  swing: number
}
const calls: Record<number, Call> = {
  1: { period: 4, stay: 2.6, load: 1475, swing: 60 },
  2: { period: 6, stay: 4.1, load: 905, swing: 55 },
  3: { period: 5, stay: 3, load: 640, swing: 30 },
}

/** kW at a berth: nothing between two calls, then up within three minutes, and down at once. */
const powerAt = (call: Call, hours: number): number => {
  const { stay, load, swing } = call
  const { since } = callAt(call, hours)
  if (since > stay) return 0
  const settled = Math.min(1, since / rampHours)
  return settled * (load + swing * Math.sin(hours * 37) + 0.2 * swing * Math.sin(hours * 211))
}

/** How many calls ago it was, 0: the present one; and hours since it began. */
const callAt = ({ period, stay }: Call, hours: number) => {
  const since = hours + stay * 0.6
  const ago = -Math.floor(since / period)
  return { ago, since: since + ago * period }
}

/** The converter feeds berth 2. */
const fed = calls[2]!
const fleet = ['Aurora of Harrow', 'Little Auk', 'Harrow Maid', 'Grey Heron']
const rampHours = 0.05
const converterState = (hours: number): number => {
  const { since } = callAt(fed, hours)
  return since > fed.stay ? 10 : since < rampHours ? 30 : 40
}

interface Drawn {
  path: string
  /** @param hours until what comes from the port itself; less than 0 */
  at(hours: number): number | string
}

const drawn = (): Drawn[] => [
  ...Object.entries(calls).flatMap(([berth, call]): Drawn[] => [
    { path: `berth/${berth}/shore/active_power`, at: (hours) => powerAt(call, hours) },
    { path: `berth/${berth}/shore/breaker_closed`, at: (hours) => Number(powerAt(call, hours) > 0) },
    { path: `Harrow Sound/Shore power/Berth ${berth}/Feeder/power`, at: (hours) => powerAt(call, hours) },
    { path: `Harrow Sound/Shore power/Berth ${berth}/Feeder/load`, at: (hours) => powerAt(call, hours) / 25 },
  ]),
  { path: 'converter/power', at: (hours) => (powerAt(fed, hours) * 820) / fed.load },
  { path: 'converter/state', at: converterState },
  { path: 'converter/ship', at: (hours) => fleet[callAt(fed, hours).ago % fleet.length]! },
  { path: 'office/grid/frequency', at: (hours) => 50 + 0.03 * Math.sin(hours * 97) + 0.02 * Math.sin(hours * 401) },
]

const rounded = (value: number | string) => (typeof value === 'string' ? value : Math.round(value * 100) / 100)
const sampleOf = (series: number, at: number, value: number | string): PastSample =>
  typeof value === 'string' ? { series, at, quality: 0, number: NaN, text: value } : { series, at, quality: 0, number: value, text: null }

/** Of a value that stays the same only its beginning and its end are recorded. */
function* samplesOf(series: number, { at }: Drawn, from: number, to: number): Generator<PastSample> {
  let last: number | string | null = null
  let toldAt = -Infinity
  for (let time = from; time < to; time += every) {
    const value = rounded(at((time - to) / hourMs))
    if (value !== last && last !== null && time - every > toldAt) yield sampleOf(series, time - every, last)
    if (value !== last) yield sampleOf(series, (toldAt = time), value)
    last = value
  }
}

export const addDemoPast = async (db: Kysely<Database>, url: string) => {
  const all = drawn()
  const tags = await db
    .selectFrom('tag')
    .select(['id', 'path', 'type', 'unit'])
    .where(
      'path',
      'in',
      all.map(({ path }) => path),
    ) // prettier-ignore
    .execute()
  const byPath = new Map(tags.map((tag) => [tag.path, tag]))
  const byId = new Map(tags.map((tag) => [tag.id, tag]))
  const to = Math.floor(Date.now() / every) * every - endsBefore
  const samples = (function* () {
    for (const one of all) {
      const tag = byPath.get(one.path)
      if (tag) yield* samplesOf(tag.id, one, to - lasts, to)
    }
  })()
  await bringIn(url, samples, (id) => byId.get(id)!)
}

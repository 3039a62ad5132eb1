import pg from 'pg'
import type { RollupWay } from '#core/equipment/settings'
import { grouped } from '#core/lists/grouped'

/** What was recorded, and what rollups of it have to be, worked out sample by sample in plain arithmetic. */

export interface Recorded {
  at: number
  /** NaN: none, or no good one. */
  value: number
  quality: number
  /** When it came. */
  arrived: number
}

const severityGood = 0

/** Rows of series, by their paths, in the order of their times and of their arrival. */
export const recordedBy = async (url: string, folder: string): Promise<Map<string, Recorded[]>> => {
  const rows = await asked<{ path: string; at: Date; arrived: Date; quality: number; number: number | null }>(
    url,
    `select path, at, arrived, quality, number from history where path like $1 order by path, at, arrived`,
    [`${folder}/%`],
  )
  const all = rows.map(({ path, at, arrived, quality: code, number }) => {
    const quality = code >>> 0
    return { path, at: at.getTime(), arrived: arrived.getTime(), quality, value: quality >>> 30 === severityGood ? (number ?? NaN) : NaN }
  })
  return grouped(all, ({ path }) => path)
}

export const asked = async <T>(url: string, text: string, values: unknown[] = []): Promise<T[]> => {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  try {
    return (await client.query(text, values)).rows as T[]
  } finally {
    await client.end()
  }
}

/** Of several at one time the one that came last. */
export const inForce = (rows: readonly Recorded[]): Recorded[] => rows.filter(({ at }, i) => rows[i + 1]?.at !== at)

export interface Said {
  value: number | null
  isGood: boolean
}

/** @param samples in the order of their times, one at each */
export const slowRollup = (how: RollupWay, samples: readonly Recorded[], from: number, to: number): Said => {
  const first = firstFrom(samples, from)
  const within: Recorded[] = []
  for (let i = first; i < samples.length && samples[i]!.at < to; i++) within.push(samples[i]!)
  const held = within[0]?.at === from ? NaN : (samples[first - 1]?.value ?? NaN)
  const steps = [{ at: from, value: held }, ...within]
  const lasting = steps.map(({ at, value }, i) => ({ value, seconds: ((steps[i + 1]?.at ?? to) - at) / 1000 }))
  const good = within.map(({ value }) => value).filter((value) => !Number.isNaN(value))
  const known = lasting.filter(({ value, seconds }) => !Number.isNaN(value) && seconds > 0)
  const seconds = known.reduce((sum, one) => sum + one.seconds, 0)
  const value = valueOf(how, good, Number.isNaN(held) ? good : [held, ...good], known, seconds)
  if (value === null || (seconds === 0 && good.length === 0)) return { value: null, isGood: false }
  return { value, isGood: seconds >= ((to - from) / 1000) * (1 - 1e-9) }
}

const valueOf = (
  how: RollupWay,
  good: readonly number[],
  alsoHeld: readonly number[],
  known: readonly { value: number; seconds: number }[],
  seconds: number,
): number | null => {
  const sum = good.reduce((total, value) => total + value, 0)
  const integral = known.reduce((total, one) => total + one.value * one.seconds, 0)
  const ofGood = (value: number) => (good.length > 0 ? value : null)
  const ofHeld = (value: number) => (alsoHeld.length > 0 ? value : null)
  switch (how) {
    case 'min':
      return ofHeld(Math.min(...alsoHeld))
    case 'max':
      return ofHeld(Math.max(...alsoHeld))
    case 'range':
      return ofHeld(Math.max(...alsoHeld) - Math.min(...alsoHeld))
    case 'mean':
      return ofGood(sum / good.length)
    case 'mean by time':
      return seconds > 0 ? integral / seconds : null
    case 'sum':
      return sum
    case 'count':
      return good.length
    case 'first':
      return ofGood(good[0]!)
    case 'last':
      return ofGood(good.at(-1)!)
    case 'deviation':
      return ofGood(Math.sqrt(good.reduce((total, value) => total + (value - sum / good.length) ** 2, 0) / good.length))
    case 'integral':
    case 'time true':
      return integral / (how === 'integral' ? 3600 : 1)
  }
}

/** Which of them is the first at or after a time. */
const firstFrom = (samples: readonly Recorded[], from: number): number => {
  let [low, high] = [0, samples.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (samples[middle]!.at < from) low = middle + 1
    else high = middle
  }
  return low
}

import { bucketStart, tierMs, type Tier } from './bucket'

/** From which shelf which part of a span is taken. */
export type Shelf = 'sample' | Tier
export interface Stretch {
  shelf: Shelf
  from: number
  to: number
}

/** What is there; Unix milliseconds. */
export interface Stock {
  /** When the oldest of each shelf begins; Infinity: nothing is there. */
  oldest: Record<Shelf, number>
  /** Minutes and hours before these are made. */
  minutesTo: number
  hoursTo: number
}

/** So many single samples of all series together are still looked at one by one. */
export const mostSamples = 200_000

const finerOf = { hour: 'minute', minute: 'sample', second: 'sample' } as const
const coarserOf = { sample: 'minute', second: 'minute', minute: 'hour' } as const
/** A stretch of seconds begins and ends with a minute: minutes have their seconds, or have few samples. */
const stepOf = { second: tierMs.minute, minute: tierMs.minute, hour: tierMs.hour } as const

/**
 * Chooses what a span is best drawn from: buckets that are no wider than a column of the picture, single samples where there are
 * few. Its ragged ends and what is not made yet come from finer shelves, what is no longer kept from coarser ones.
 *
 * @param column how much time a column of the picture is; ms
 * @param samples how many there are in the span, about
 * @returns stretches in their order; what is asked of them is all that begins within them
 */
export const stretchesOf = (from: number, to: number, column: number, samples: number, stock: Stock): Stretch[] => {
  const wanted: Shelf = samples <= mostSamples ? 'sample' : column >= tierMs.hour ? 'hour' : column >= tierMs.minute ? 'minute' : 'second'
  const stretches: Stretch[] = []
  const add = (shelf: Shelf, begin: number, end: number) => {
    if (end <= begin) return
    const last = stretches.at(-1)
    if (last?.shelf === shelf && last.to === begin) last.to = end
    else stretches.push({ shelf, from: begin, to: end })
  }
  const cover = (shelf: Shelf, begin: number, end: number): void => {
    if (end <= begin) return
    const there = keptFrom(shelf, stock)
    if (shelf !== 'hour' && begin < there) {
      cover(coarserOf[shelf], begin, Math.min(end, there))
      return cover(shelf, Math.max(begin, there), end)
    }
    if (shelf === 'sample') return add(shelf, begin, end)
    const [step, finer] = [stepOf[shelf], finerOf[shelf]]
    const finerThere = keptFrom(finer, stock)
    const lastBorder = bucketStart(Math.min(end, madeTo(shelf, stock)), step)
    const low = finerThere <= begin ? -bucketStart(-begin, step) : bucketStart(begin, step)
    const high = finerThere <= lastBorder ? lastBorder : end
    if (high <= low) return finerThere <= begin ? cover(finer, begin, end) : add(shelf, low, end)
    cover(finer, begin, low)
    add(shelf, low, high)
    cover(finer, high, end)
  }
  cover(wanted, from, to)
  return stretches
}

const madeTo = (shelf: Tier, { minutesTo, hoursTo }: Stock) => (shelf === 'hour' ? hoursTo : minutesTo)

/** Before it nothing is there. Seconds are of no use where the few samples of other minutes are gone. */
const keptFrom = (shelf: Shelf, { oldest }: Stock): number => {
  if (shelf !== 'second') return shelf === 'hour' ? -Infinity : oldest[shelf]
  return oldest.second === Infinity ? oldest.sample : Math.max(oldest.second, oldest.sample)
}

import { isGood } from '#core/tags/quality'
import type { BenchPoint, BlockNow } from '#shared/bench'
import type { BenchPoints } from './benchPoints'

interface Watched {
  /** Each register as a point of its own. */
  points: BenchPoint[]
  timer: NodeJS.Timeout
  times: number[]
  words: (number | null)[][]
  problems: (string | null)[]
  askedAt: number
}

const heldMs = 10_000
const mostMoments = 240
/** At most so many registers at once, of all people together. */
const mostBlocks = 8

/** Blocks of registers that somebody wants to understand: what they held, moment by moment, until nobody asks any more. */
export class WatchedBlocks {
  private watched = new Map<string, Watched>()

  constructor(private bench: Pick<BenchPoints, 'sample'>) {}

  look(linkId: number, addresses: readonly string[], interval: number): BlockNow {
    const key = JSON.stringify([linkId, addresses, interval])
    const block = this.watched.get(key) ?? this.start(key, linkId, addresses, interval)
    block.askedAt = Date.now()
    const { times, words, problems } = block
    return { times, words, problems }
  }

  close() {
    for (const key of this.watched.keys()) this.end(key)
  }

  private start(key: string, linkId: number, addresses: readonly string[], interval: number): Watched {
    if (this.watched.size >= mostBlocks) this.end(this.watched.keys().next().value!)
    const points = addresses.map((address) => ({ linkId, address, type: 'uint16' as const, options: {}, interval }))
    const timer = setInterval(() => this.note(key), interval)
    const block: Watched = { points, timer, times: [], words: [], problems: points.map(() => null), askedAt: Date.now() }
    this.watched.set(key, block)
    this.note(key)
    return block
  }

  /** A moment counts once something was confirmed since the last. */
  private note(key: string) {
    const block = this.watched.get(key)!
    if (Date.now() - block.askedAt > heldMs) return this.end(key)
    const readings = block.points.map((point) => this.bench.sample(point))
    block.problems = readings.map(({ problem }) => problem)
    const seenAt = readings.reduce((newest, { quality, seenAt: at }) => (isGood(quality) && at > newest ? at : newest), 0)
    if (seenAt === 0 || seenAt <= (block.times.at(-1) ?? 0)) return
    block.times.push(seenAt)
    block.words.push(readings.map(({ quality, value }) => (isGood(quality) && typeof value === 'number' ? value : null)))
    if (block.times.length <= mostMoments) return
    block.times.shift()
    block.words.shift()
  }

  private end(key: string) {
    clearInterval(this.watched.get(key)?.timer)
    this.watched.delete(key)
  }
}

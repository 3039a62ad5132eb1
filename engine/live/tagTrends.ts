import { SecondBins } from '#core/trends/secondBins'
import { isGood } from '#core/tags/quality'
import type { TagTrend } from '#shared/watch'
import type { TagRegister } from '../tags/tagRegister'
import type { Sample, SampleRing } from '../table/sampleRing'
import type { Handle, TagTable } from '../table/tagTable'

interface Followed {
  handle: Handle
  ring: SampleRing
  end(): void
  bins: SecondBins
  /** Samples that made room before they were looked at, so far. */
  lost: number
  askedAt: number
}

const takeEveryMs = 250
/** As many changes of one tag between two looks as are told apart. */
const mostBetween = 2000
const keptMs = 10 * 60_000
const mostFollowed = 2000

/**
 * How tags went in the last minutes, of those that somebody watches: from when they are first asked for until nobody has
 * asked for ten minutes.
 */
export class TagTrends {
  private followed = new Map<number, Followed>()
  private timer: NodeJS.Timeout | null = null

  constructor(private around: { table: TagTable; tags: TagRegister }) {}

  /** @param after only seconds from this one on; Unix seconds. */
  of(ids: readonly number[], after: number): TagTrend[] {
    this.takeAll(Date.now())
    return ids.flatMap((id) => {
      const followed = this.follow(id)
      return followed ? [{ id, ...followed.bins.told(Date.now(), after) }] : []
    })
  }

  close() {
    if (this.timer) clearInterval(this.timer)
    this.timer = null
    for (const { end } of this.followed.values()) end()
    this.followed.clear()
  }

  private follow(id: number): Followed | null {
    const known = this.followed.get(id)
    const handle = this.around.tags.handleOf(id)
    if (known && known.handle === handle) {
      known.askedAt = Date.now()
      return known
    }
    if (known) this.letGo(id, known)
    if (handle === undefined || this.followed.size >= mostFollowed) return null
    const { ring, end } = this.around.table.follow(handle, mostBetween)
    const now = Date.now()
    const bins = new SecondBins(now, ring.drain().map(goodNumber).at(-1) ?? null)
    const followed = { handle, ring, end, bins, lost: 0, askedAt: now }
    this.followed.set(id, followed)
    this.timer ??= setInterval(() => this.takeAll(Date.now()), takeEveryMs)
    return followed
  }

  private takeAll(now: number) {
    for (const [id, followed] of this.followed) {
      const isGone = this.around.tags.handleOf(id) !== followed.handle
      if (isGone || now - followed.askedAt > keptMs) this.letGo(id, followed)
      else this.take(followed)
    }
    if (this.followed.size > 0 || !this.timer) return
    clearInterval(this.timer)
    this.timer = null
  }

  private take(followed: Followed) {
    const { ring, bins } = followed
    const now = Date.now()
    for (const sample of ring.drain()) {
      const good = goodNumber(sample)
      // what nobody confirmed any more was seen before it became bad
      bins.add(good === null ? now : sample.seenAt, good)
    }
    bins.missed(ring.lost - followed.lost, now)
    followed.lost = ring.lost
  }

  private letGo(id: number, { end }: Followed) {
    end()
    this.followed.delete(id)
  }
}

/** A switch is drawn as a step; what is no number is a gap. */
const goodNumber = ({ value, quality }: Sample): number | null => {
  if (!isGood(quality)) return null
  if (typeof value !== 'number' && typeof value !== 'bigint' && typeof value !== 'boolean') return null
  const number = Number(value)
  return Number.isFinite(number) ? number : null
}

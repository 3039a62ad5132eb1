/** Below this all times are one class, ms; above, eight classes an octave, up to about a quarter of an hour. */
const least = 0.05
const perOctave = 8
const classes = 24 * perOctave + 1

/** The class that a time belongs to. @param ms how long it took */
export const classOf = (ms: number) => (ms <= least ? 0 : Math.min(classes - 1, Math.ceil(Math.log2(ms / least) * perOctave)))
/** The middle of a class, by its ratio: no time in it is further off than 4.5 %. */
const middleOf = (index: number) => (index === 0 ? least : least * 2 ** ((index - 0.5) / perOctave))

/**
 * How long answers took: counted in classes of equal ratio, in memory that is taken once. A quantile is no further off than
 * 4.5 % of what was measured.
 */
export class Histogram {
  private counts = new Uint32Array(classes)
  count = 0
  sum = 0
  least = Infinity
  most = 0

  /** @param ms how long one took @param index its class, where that is known already */
  add(ms: number, index = classOf(ms)) {
    this.counts[index]!++
    this.count++
    this.sum += ms
    if (ms < this.least) this.least = ms
    if (ms > this.most) this.most = ms
  }

  /** So many of a thousand took no longer than this, ms; null: nothing was measured. @param share 0 to 1 */
  quantile(share: number): number | null {
    if (this.count === 0) return null
    const rank = Math.max(1, Math.ceil(share * this.count))
    let seen = 0
    for (let index = 0; index < classes; index++) {
      seen += this.counts[index]!
      if (seen >= rank) return Math.min(this.most, Math.max(this.least, middleOf(index)))
    }
    return this.most
  }

  clear() {
    this.counts.fill(0)
    this.count = this.sum = this.most = 0
    this.least = Infinity
  }
}

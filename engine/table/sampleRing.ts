import type { TagValue } from '#core/tags/types'

/** What a tag had at one moment. */
export interface Sample {
  /** Undefined: none, from here on. */
  value: TagValue | undefined
  quality: number
  /** When the source had it, and when it came here; Unix milliseconds. */
  sourceTime: number
  seenAt: number
}

/**
 * Every sample of one tag, for whoever may miss none: up to a limit. What comes when it is full takes the place of the
 * oldest, which is counted.
 */
export class SampleRing {
  private samples: Sample[] = []
  /** Where the oldest stands, once it is full. */
  private oldest = 0
  private newestSource = -Infinity
  /** Samples that gave way since the start. */
  lost = 0

  constructor(readonly most: number) {}

  get size() {
    return this.samples.length
  }

  push(sample: Sample) {
    this.newestSource = sample.sourceTime
    if (this.samples.length < this.most) return void this.samples.push(sample)
    this.samples[this.oldest] = sample
    this.oldest = (this.oldest + 1) % this.most
    this.lost++
  }

  /** The same value once more is a sample of its own where the source says that it is a later one. */
  pushIfLater(sample: Sample) {
    if (sample.sourceTime > this.newestSource) this.push(sample)
  }

  /** Takes out what is there, the oldest first. */
  drain(): Sample[] {
    const { samples, oldest } = this
    this.samples = []
    this.oldest = 0
    return oldest === 0 ? samples : [...samples.slice(oldest), ...samples.slice(0, oldest)]
  }
}

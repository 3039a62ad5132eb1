import type { StoredSample } from '#db/history/samples'
import { isGood } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import type { Handle } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import type { Past } from './past'
import type { Recorder } from './recorder'

/** A sample of a time that is past: what somebody else recorded meanwhile. */
export interface PastSample {
  /** Unix ms. */
  at: number
  value: TagValue | undefined
  quality: number
}

/** The record of tags, for whoever knows what is missing in it. */
export interface Gappy {
  isRecorded(handle: Handle): boolean
  /** What is older is not kept; Unix ms. */
  oldest(): number
  /** Since when, before a moment, nothing certain was recorded; null: nothing ever was. Rejects while nothing is to be had of the record. */
  uncertainSince(handle: Handle, at: number): Promise<number | null>
  /** Since when something of a link is missing that nobody filled in; null: nothing is, as far as is known. Rejects while that is not to be had. */
  missingSince(): Promise<number | null>
  /** @param since null: all is filled in */
  noteMissing(since: number | null): void
  /** Resolves once all that came until now is in the record. */
  settled(): Promise<void>
  /** What there is of a span; the earliest first. */
  samples(handle: Handle, from: number, to: number, most: number): Promise<StoredSample[]>
  /** Lays samples into the record; each takes the place of what there was of its time. Resolves once there is room for more. */
  fill(handle: Handle, samples: readonly PastSample[]): Promise<void>
}

interface Around {
  past: Past
  recorder: Pick<Recorder, 'isRecorded' | 'correct'>
  tagOf(handle: Handle): RegisteredTag | undefined
  /** Resolves once all that came until now is in the database. */
  settled(): Promise<void>
  /** Samples that wait for the database. */
  waiting(): number
  oldest(now: number): number
}

/** What comes live goes before what is filled in: with so many waiting, it waits. */
const mostWaiting = 200_000
const roomLookMs = 50
const inOneGo = 5000
/** Marks that a link leaves one after the other while it tries to come back. */
const mostLookedBack = 100

/** What links of this record share; each has its own note of what is missing. */
export const gapsIn = ({ past, recorder, tagOf, settled, waiting, oldest }: Around): Omit<Gappy, 'missingSince' | 'noteMissing'> => ({
  oldest: () => oldest(Date.now()),
  settled,
  isRecorded(handle) {
    const tag = tagOf(handle)
    return tag !== undefined && recorder.isRecorded(tag.id)
  },
  async uncertainSince(handle, at) {
    const tag = tagOf(handle)
    const before = tag ? await past.samples({ id: tag.id, from: oldest(at), to: at, most: mostLookedBack, isBackwards: true }) : []
    const good = before.findIndex(({ quality }) => isGood(quality))
    if (good === 0) return before[0]!.at
    return (good > 0 ? before[good - 1] : before.at(-1))?.at ?? null
  },
  async samples(handle, from, to, most) {
    const tag = tagOf(handle)
    if (!tag) return []
    return past.samples({ id: tag.id, from, to, most })
  },
  async fill(handle, samples) {
    for (let done = 0; done < samples.length; done += inOneGo) {
      while (waiting() > mostWaiting) await new Promise((resolve) => setTimeout(resolve, roomLookMs))
      const tag = tagOf(handle)
      if (!tag) return
      const now = Date.now()
      for (const sample of samples.slice(done, done + inOneGo)) recorder.correct(tag.id, sample, now)
    }
  },
})

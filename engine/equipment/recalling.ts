import type { Interval } from '#core/history/intervals'
import type { Stretch } from '#core/equipment/windows'
import type { TagValue } from '#core/tags/types'
import type { StoredSample } from '#db/history/samples'
import type { RegisteredTag } from '../tags/tagRegister'

/** What a rollup needs of what was recorded. Questions reject where the database does not answer. */
export interface Recalling {
  /** Whether what it gives is recorded. */
  isRecorded(tag: RegisteredTag): boolean
  /**
   * What became of a tag between each two borders, once all that was recorded until now is in the database; null: nothing is
   * recorded here. Those that end after `now` are left open.
   */
  intervals(path: string, borders: readonly number[], now: number): Promise<Interval[] | null>
  /** When the next sample of a tag is, from a moment on; null: there is none. */
  nextAt(path: string, from: number): Promise<number | null>
  /** What was told of a rollup: what held before a moment, and all up to another one, in order. */
  told(tag: RegisteredTag, from: number, to: number): Promise<StoredSample[]>
  /** What is to be made up for that happened before somebody began to look. */
  missed(tag: RegisteredTag, of: string, now: number): Promise<Stretch | null>
  /**
   * Notes what is still to be made again, for whoever begins after a kill; null: nothing.
   * @param isAll false: besides what was noted before
   * @returns false: it is not recorded
   */
  noteAgain(tag: RegisteredTag, stretch: Stretch | null, isAll: boolean): boolean
  /** A sample that takes the place of what was told for a moment that is past. */
  correct(tag: RegisteredTag, at: number, value: TagValue | undefined, quality: number): void
}

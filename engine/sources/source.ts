import type { TagValue } from '#core/tags/types'
import type { ValueOrigin } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { WriteOutcome } from '../links/driver'
import type { RegisteredTag } from '../tags/tagRegister'
import type { Handle } from '../table/tagTable'

/**
 * Where tags get their values while the engine runs: a link is one, what is kept in memory another. It writes
 * into the tag table by itself; this is what others need of it.
 *
 * @example
 * const problems = source.take([tag], []) // from now on it brings the tag's values
 * const outcome = await source.write(tag.handle, 21.5, by)
 */
export interface RunningSource {
  /** Tags that are new or changed, and handles that are no more. Returns what is wrong with those that it cannot take: they stop nobody else. */
  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown>
  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome>
  /** How a tag's value is made; null while that cannot be told. */
  /** @param brief without other readings of the same words, which take their time. */
  origin(handle: Handle, brief?: boolean): ValueOrigin | null
  /** Paths of the tags that a value is made of, whether they are there or not; absent: of none. */
  inputs?(handle: Handle): readonly string[]
}

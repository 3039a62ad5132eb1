import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import type { Point, WriteOutcome } from '#engine/links/driver'
import type { Handle, TagTable } from '#engine/table/tagTable'
import { until } from './until'

/** The values of a session’s points by their addresses, and waiting for them. */
export const byAddress = (
  session: { write(handle: Handle, value: TagValue): Promise<WriteOutcome> },
  table: TagTable,
  points: readonly Point[],
) => {
  const handleOf = (address: string) => points.find((point) => point.address === address)!.handle
  const qualityOf = (address: string) => table.quality[handleOf(address)]!
  const is = (address: string, code: number) =>
    until(
      () => qualityOf(address),
      (seen) => seen === code,
    )
  return {
    handleOf,
    value: (address: string): TagValue | undefined => table.values[handleOf(address)],
    quality: qualityOf,
    write: (address: string, value: TagValue) => session.write(handleOf(address), value),
    good: (address: string) => is(address, quality.Good),
    is,
    holds: (address: string, value: TagValue) =>
      until(
        () => table.values[handleOf(address)],
        (seen) => seen === value,
      ),
  }
}

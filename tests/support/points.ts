import { usualOdd } from '#core/tags/odd'
import type { DataType } from '#core/tags/types'
import type { Point } from '#engine/links/driver'
import type { TagTable } from '#engine/table/tagTable'

export interface Wanted {
  address: string
  type: DataType
  more?: Partial<Point>
}

/** Points for a link under test, each with its place in the table. */
export const pointsIn = (table: TagTable, wanted: readonly Wanted[]): Point[] =>
  wanted.map(({ address, type, more }) => ({
    handle: table.allocate(),
    path: address,
    address,
    type,
    options: {},
    access: 'readwrite',
    interval: null,
    scaling: null,
    odd: usualOdd,
    ...more,
  }))

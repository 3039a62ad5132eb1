import { pointTag, type Tag } from '#shared/tags'

export interface BenchTag {
  path: string
  unit: number
  offset: number
  count: number
  type: 'float32' | 'int16'
}

/** Three floats, then two integers, over and over, spread evenly over the units. */
export const benchTags = (total: number, units: number[]): BenchTag[] =>
  units.flatMap((unit) => {
    let offset = 0
    return Array.from({ length: Math.ceil(total / units.length) }, (_, i): BenchTag => {
      const type = i % 5 < 3 ? 'float32' : 'int16'
      const tag = { path: `unit/${unit}/value_${i}`, unit, offset, count: type === 'float32' ? 2 : 1, type } as const
      offset += tag.count
      return tag
    })
  })

export const asTags = (tags: BenchTag[], linkId: number): Tag[] =>
  tags.map(({ path, unit, offset, type }, i) => ({
    ...pointTag({ path, linkId, address: `${unit}:holding/${offset}`, type }),
    id: i + 1,
    revision: 1,
  }))

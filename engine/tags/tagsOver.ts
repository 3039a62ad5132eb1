import type { TagSource } from '#shared/sources/registry'

/** Tags that get their values over one of these links, as points of it or from record sets over it. */
export const tagsOver = <T extends { source: TagSource }>(
  links: ReadonlySet<number>,
  tags: Iterable<T>,
  sets: ReadonlyMap<number, { linkId: number }>,
): T[] =>
  [...tags].filter(({ source }) => {
    const link = source.kind === 'point' ? source.linkId : source.kind === 'record' ? sets.get(source.recordSetId)?.linkId : undefined
    return link !== undefined && links.has(link)
  })

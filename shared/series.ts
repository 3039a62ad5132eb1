import { protocolOf } from '#core/links/registry'
import { countedUp, isCounted } from '#core/tags/series'
import type { FieldMessage } from './faults'
import { pointOf } from './sources/point'
import { isFrom, tagProblems } from './sources/registry'
import type { LinkLookup } from './sources/source'
import type { TagDraft } from './tags'

/** What a series of tags is made by. */
export interface Series {
  /** What all of them have in common. */
  like: TagDraft
  /** Paths, and addresses where nothing follows from the one before: numbers in braces are counted. */
  path: string
  address: string
  count: number
  /** By how many elements addresses step; null: by the width of the value. */
  step: number | null
}

export interface SeriesTag {
  draft: TagDraft
  problems: FieldMessage[]
}

export const mostOfSeries = 5000

/** The tags of a series, each with what is wrong with it. */
export const seriesOf = ({ like, path, address, count, step }: Series, links: LinkLookup): SeriesTag[] => {
  const addresses = addressesOf({ like, address, count, step }, links)
  const seen = new Set<string>()
  return Array.from({ length: Math.min(count, mostOfSeries) }, (_, index) => {
    const source = isFrom('point', like) ? { ...like.source, address: addresses[index]! } : like.source
    const draft: TagDraft = { ...like, path: countedUp(path, index), source, accepted: [] }
    const isTwice = seen.has(draft.path)
    seen.add(draft.path)
    const twice = isTwice ? [{ path: 'path', message: `“${draft.path}” comes twice: write what is counted in braces, as in {01}.` }] : []
    return { draft, problems: [...twice, ...tagProblems(draft, links)] }
  })
}

const addressesOf = ({ like, address, count, step }: Pick<Series, 'like' | 'address' | 'count' | 'step'>, links: LinkLookup): string[] => {
  if (!isFrom('point', like)) return []
  const link = links(like.source.linkId)
  const found: string[] = []
  let present = address
  for (let index = 0; index < Math.min(count, mostOfSeries); index++) {
    found.push(isCounted(address) ? countedUp(address, index, step ?? 1) : present)
    if (!link || isCounted(address)) continue
    const point = { ...pointOf({ ...like, source: { ...like.source, address: present } }), interval: null }
    present = protocolOf(link.kind).next(point, step) ?? present
  }
  return found
}

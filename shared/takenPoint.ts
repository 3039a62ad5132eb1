import { namesFor } from '#core/tags/valueNames'
import type { PlaceDetails } from './browse'
import { plainValue, type TagDraft } from './tags'

const longestDescription = 500
const longestUnit = 40

/** The tag that a point of the far side becomes, with what is said of it there. */
export const takenPoint = (
  path: string,
  { type, ...details }: PlaceDetails,
  at: { linkId: number; interval: number | null; options?: Record<string, unknown> },
): TagDraft => ({
  path,
  source: {
    kind: 'point',
    linkId: at.linkId,
    address: details.address,
    options: { ...(details.options ?? (details.member ? { member: details.member } : {})), ...at.options },
    interval: at.interval,
  },
  type: type!,
  access: details.access === 'readwrite' ? 'readwrite' : 'read',
  ...plainValue,
  scaling: details.scaling ?? null,
  names: namesFor(type!, details.names),
  unit: details.unit.slice(0, longestUnit),
  range: details.range && details.range.low < details.range.high ? details.range : null,
  description: details.description.slice(0, longestDescription),
})

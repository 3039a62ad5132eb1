import type { Experience, LinkLoad, LoadPoint, PartExperience } from '#core/links/load'
import { protocolOf } from '#core/links/registry'
import type { Link, LinkSettings } from '#shared/links/link'
import type { LoadChange } from '#shared/load'
import { pointOf } from '#shared/sources/point'
import { isFrom } from '#shared/sources/registry'
import type { TagDraft } from '#shared/tags'

/** Tags as they would be: in the place of saved ones, or new; and those that would be gone. */
export interface Meant {
  set: { id: number | null; tag: TagDraft }[]
  removed: number[]
}

/** What a link is asked for as it is, and what it would be asked for. */
export const loadOf = (
  link: Link,
  settings: LinkSettings | null,
  tags: Iterable<TagDraft & { id: number }>,
  { set, removed }: Meant,
  seen: Record<string, PartExperience>,
): LoadChange => {
  const touched = new Set([...removed, ...set.flatMap(({ id }) => (id === null ? [] : [id]))])
  const [present, left]: LoadPoint[][] = [[], []]
  for (const tag of tags) {
    const point = pointIn(link.id, tag.id, tag)
    if (!point) continue
    present!.push(point)
    if (!touched.has(tag.id)) left!.push(point)
  }
  const meant = set.flatMap(({ id, tag }) => pointIn(link.id, id, tag) ?? [])
  const times = Object.values(seen).flatMap(({ answerMs }) => answerMs ?? [])
  /** What was never asked is taken to be as slow as the slowest. */
  const slowest = { answerMs: times.length > 0 ? Math.max(...times) : null, fences: {} }
  const experience: Experience = (unit) => seen[unit ?? ''] ?? slowest
  const load = (points: readonly LoadPoint[], by: LinkSettings): LinkLoad => protocolOf(link.kind).load(points, by, experience)
  return { now: load(present!, link.settings), then: load([...left!, ...meant], settings ?? link.settings) }
}

const pointIn = (linkId: number, id: number | null, tag: TagDraft): LoadPoint | null =>
  isFrom('point', tag) && tag.source.linkId === linkId ? { ...pointOf(tag), id, path: tag.path } : null

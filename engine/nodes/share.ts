import { isFrom } from '#shared/sources/registry'
import { mapSecrets } from '#shared/secrets'
import type { Subject, ThingOf } from '#db/subjects'
import type { Configuration } from '../configuration/site'

type Things = Configuration['things']
/** What somebody has of each subject: ids, and the revision that each thing was last changed by. */
export type Has = Map<Subject, Map<number, number>>

interface Shared {
  id: number
  revision: number
}

/** What a node gets of the configuration: what runs on it, what belongs to its links, and what any link may need. */
const shared: readonly Subject[] = ['certificate', 'deviceDescription', 'link', 'outlet', 'recordSet', 'tag', 'bridge', 'recording']
/** What is placed on a node. */
const placed: ReadonlySet<Subject> = new Set(['link', 'outlet', 'bridge'])

/** What a node should have and has not, or has otherwise; and what it has and should not. */
export const shareFor = (nodeId: number, things: Things, has: Has): { set: [Subject, Shared[]][]; removed: [Subject, number[]][] } => {
  const set: [Subject, Shared[]][] = []
  const removed: [Subject, number[]][] = []
  const its = belongingTo(nodeId, things)
  for (const subject of shared) {
    const known = has.get(subject) ?? new Map<number, number>()
    const wanted = new Set<number>()
    const news: Shared[] = []
    for (const thing of things[subject].values() as Iterable<ThingOf[Subject]>) {
      if (!its(subject, thing)) continue
      wanted.add(thing.id)
      if (known.get(thing.id) !== thing.revision) news.push(thing)
    }
    const gone = [...known.keys()].filter((id) => !wanted.has(id))
    if (news.length > 0) set.push([subject, news])
    if (gone.length > 0) removed.push([subject, gone])
  }
  return { set, removed }
}

/** As the node is to have it: what runs there is its own; limits are watched by the site; secrets are for it alone. */
export const asShared = (subject: Subject, thing: Shared, sealed: (secret: string) => string): unknown => {
  if (subject === 'tag') return { ...thing, limits: [] }
  if (!placed.has(subject)) return thing
  return mapSecrets({ ...thing, nodeId: null }, (secret) => ('sealed' in secret ? { sealed: sealed(secret.sealed) } : secret))
}

const belongingTo = (nodeId: number, things: Things) => {
  const links = new Set<number>()
  for (const link of things.link.values()) if (link.nodeId === nodeId) links.add(link.id)
  const hasSensors = [...links].some((id) => things.link.get(id)!.kind === 'iolink')
  const sets = new Set<number>()
  for (const set of things.recordSet.values()) if (links.has(set.linkId)) sets.add(set.id)
  const belongs: Partial<Record<Subject, (thing: never) => boolean>> = {
    certificate: () => true,
    recording: () => true,
    deviceDescription: () => hasSensors,
    link: ({ id }: ThingOf['link']) => links.has(id),
    outlet: (outlet: ThingOf['outlet']) => outlet.nodeId === nodeId,
    bridge: (bridge: ThingOf['bridge']) => bridge.nodeId === nodeId,
    recordSet: ({ id }: ThingOf['recordSet']) => sets.has(id),
    tag: (tag: ThingOf['tag']) =>
      (isFrom('point', tag) && links.has(tag.source.linkId)) || (isFrom('record', tag) && sets.has(tag.source.recordSetId)),
  }
  return (subject: Subject, thing: ThingOf[Subject]) => belongs[subject]?.(thing as never) ?? false
}

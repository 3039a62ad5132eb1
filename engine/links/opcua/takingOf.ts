import type { ThingOf } from '#db/subjects'
import { isNothing, takingPlan, type KnownTag, type TakingPlan } from '#core/opcua/takingOver'
import { isFrom } from '#shared/sources/registry'
import type { TakenNode } from '../../configuration/takenOver'
import type { RegisteredTag } from '../../tags/tagRegister'
import type { FoundBranch } from '../driver'
import type { OpcuaPointOptions, OpcuaSettings } from '#core/opcua/settings'

/** What has to be done with the tags of a link that takes over a branch; null: nothing. */
export const takingOf = (
  link: ThingOf['link'],
  { points, isWhole }: FoundBranch,
  tags: Iterable<RegisteredTag>,
): (TakingPlan<TakenNode> & { folder: string }) | null => {
  if (link.kind !== 'opcua') return null
  const { takesOver } = link.settings as OpcuaSettings
  if (!takesOver) return null
  const plan = takingPlan(takesOver, points.flatMap(nodeOf), knownOf(link.id, tags), isWhole)
  return isNothing(plan) ? null : { ...plan, folder: takesOver.folder }
}

const nodeOf = ({ names, details }: FoundBranch['points'][number]): TakenNode[] => {
  const { address, member, type, access } = details
  return type === null || access === 'none' ? [] : [{ address, member, type, access, names, details }]
}

function* knownOf(linkId: number, tags: Iterable<RegisteredTag>): Iterable<KnownTag> {
  for (const tag of tags) {
    if (!isFrom('point', tag) || tag.source.linkId !== linkId) continue
    const { member = '', takenOver = false } = tag.source.options as OpcuaPointOptions
    yield { id: tag.id, address: tag.source.address, member, type: tag.type, access: tag.access, isTakenOver: takenOver }
  }
}

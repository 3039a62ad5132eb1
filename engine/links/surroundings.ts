import type { ThingOf } from '#db/subjects'
import { isFrom } from '#shared/sources/registry'
import type { TakingPlan } from '#core/opcua/takingOver'
import type { LastingAddress } from '../configuration/lastingAddresses'
import type { TakenNode } from '../configuration/takenOver'
import type { JournalWriter } from '../journal/journal'
import type { Handle, TagTable } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'
import type { Security } from '../trust/security'
import type { Nodes } from '../nodes/nodes'
import type { LinkContext } from './driver'
import { takingOf } from './opcua/takingOf'

interface Around {
  options: {
    journal: JournalWriter
    security: Security
    keepAddresses?(found: LastingAddress[]): void
    takeOver?(link: ThingOf['link'], folder: string, plan: TakingPlan<TakenNode>): void
    nodes?: Pick<Nodes, 'open'>
  }
  table: TagTable
  tags: TagRegister
  devices: { of: NonNullable<LinkContext<never>['described']> }
  gaps: NonNullable<LinkContext<never>['gaps']>
  wanted: { things: { link: ReadonlyMap<number, ThingOf['link']> } }
  roots(): readonly string[]
}

/** What a link finds around it, and to whom it tells what it found out. */
export const surroundingsOf = (linkId: number, { options, table, tags, devices, gaps, wanted, roots }: Around) => {
  const { journal, security, keepAddresses, takeOver, nodes } = options
  return {
    ...{ table, journal, security, gaps, roots },
    ...(nodes && { elsewhere: (link: ThingOf['link'], context: Parameters<Nodes['open']>[1]) => nodes.open(link, context) }),
    described: (vendorId: number, deviceId: number) => devices.of(vendorId, deviceId),
    keep: (found: ReadonlyMap<Handle, string>) => {
      const known = [...found].flatMap(([handle, lasting]) => {
        const tag = tags.byHandle(handle)
        return tag && isFrom('point', tag) ? [{ id: tag.id, linkId, passing: tag.source.address, lasting }] : []
      })
      if (known.length > 0) keepAddresses?.(known)
    },
    takeOver: (found: Parameters<typeof takingOf>[1]) => {
      const link = wanted.things.link.get(linkId)
      const plan = link && takingOf(link, found, tags.all())
      if (plan) takeOver?.(link, plan.folder, plan)
    },
  }
}

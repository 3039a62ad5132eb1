import { protocolOf } from '#core/links/registry'
import { dataTypes } from '#core/tags/types'
import { duration } from '#core/text/duration'
import { pointOf, type PointSource } from '#shared/sources/point'
import PointBeside from '~/components/sources/PointBeside.vue'
import PointInterval from '~/components/sources/PointInterval.vue'
import PointFields from '~/components/sources/PointFields.vue'
import type { Drawn } from '#shared/sources/source'
import { linkIn, type Links, type SourceFace } from './face'

const nextAddress = (tag: Drawn<PointSource>, links: Links) => {
  const link = linkIn(links, tag.source.linkId)
  return link ? protocolOf(link.kind).next(pointOf(tag)) : null
}

const everyText = (interval: number | null) => (interval === null ? 'as sent' : duration(interval))

export const pointFace: SourceFace<PointSource> = {
  fields: PointFields,
  timing: PointInterval,
  beside: PointBeside,
  access: 'read',
  holder: 'The device',
  blank: (linkId) => ({ kind: 'point', linkId, address: '', options: {}, interval: null }),
  limits: ({ source }, links) => {
    const link = linkIn(links, source.linkId)
    const facts = link && protocolOf(link.kind).describe(source.address, link.settings)
    if (!facts?.ok) return { key: '', types: dataTypes, defaultType: null, writable: true }
    const { canonical, types, defaultType, writable } = facts
    return { key: `${source.linkId} ${canonical}`, types, defaultType, writable }
  },
  facts: (tag, links) => {
    const { linkId, address: full, interval } = tag.source
    const link = linkIn(links, linkId)
    if (!link) return { address: full, full, words: '', every: duration(interval ?? 1000), through: null }
    const protocol = protocolOf(link.kind)
    return {
      address: protocol.shortAddress(full),
      full,
      words: protocol.optionsText(pointOf(tag), link.settings),
      every: everyText(interval ?? protocol.interval(link.settings)),
      through: { title: link.name, path: `/links/${link.id}` },
    }
  },
  next: (tag, links) => ({ ...tag.source, address: nextAddress(tag, links) ?? '' }),
  hasNext: (tag, links) => nextAddress(tag, links) !== null,
  /** The far side's numbers may mean other points later; that something lasting took their place is told. */
  kept: (sent, saved, links) => {
    const link = linkIn(links, saved.linkId)
    if (!link || !protocolOf(link.kind).isPassing(sent.address)) return ''
    return protocolOf(link.kind).isPassing(saved.address)
      ? ' The URI takes the place of the namespace’s number as soon as the link is connected.'
      : ` It is kept as ${saved.address}, since the server may number its namespaces anew.`
  },
}

import { z } from 'zod'
import { protocolOf } from '#core/links/registry'
import type { PointDefinition } from '#core/links/protocol'
import { lineField, milliseconds, mostInteger } from '#core/contracts/fields'
import { linkContracts } from '../links/registry'
import { orElse, set, spanCell } from '#core/formats/cells'
import type { SourceColumn } from './columns'
import type { Drawn, SourceRules } from './source'

export const pointSource = z.object({
  kind: z.literal('point'),
  linkId: z
    .int({ error: 'Choose the link that the tag reads through.' })
    .min(1, 'Choose the link.')
    .max(mostInteger, 'There is no such link.'),
  address: lineField('An address', 500),
  /** What the protocol needs besides; checked by the contract of the link's kind. */
  options: z.record(z.string(), z.unknown()).default({}),
  interval: milliseconds('An interval', 10, 86_400_000).nullable().default(null),
})

export type PointSource = z.output<typeof pointSource>

/** The point of a tag, as its protocol sees it. */
export const pointOf = ({
  type,
  access,
  source: { address, options, interval },
}: Pick<Drawn<PointSource>, 'type' | 'access' | 'source'>): PointDefinition => ({ address, type, options, access, interval })

const isCommon = (field: string) => field === 'type' || field === 'access'

const columns: readonly SourceColumn<PointSource>[] = [
  {
    name: 'link',
    about: 'The name of the link that it reads through.',
    field: 'linkId',
    show: ({ linkId }, { nameOf }) => nameOf(linkId) ?? null,
    put: (source, cell, { context }) => {
      const id = context.idOf(cell)
      if (id === undefined) return cell === '' ? 'A point needs a link.' : `There is no link “${cell}”.`
      source.linkId = id
      return null
    },
  },
  {
    name: 'address',
    about: 'The point, as its protocol writes it.',
    field: 'address',
    show: ({ address }) => address,
    put: (source, cell) => {
      source.address = cell
      return null
    },
  },
  {
    name: 'interval',
    about: 'How often it is read: milliseconds, or a number with ms, s, min or h. Empty: as the link has it.',
    field: 'interval',
    show: ({ interval }) => interval,
    put: (source, cell, reading) =>
      set(
        orElse(cell, null, () => spanCell(cell, reading)),
        (interval) => (source.interval = interval),
      ),
  },
]

/** A point of a link: a register, a node, whatever the far side has. */
export const point: SourceRules<PointSource> = {
  contract: pointSource,
  title: 'A point of a link',
  subtitle: 'read from a device or server',
  isScaled: true,
  isDamped: true,
  columns,
  blank: () => ({ kind: 'point', linkId: 0, address: '', options: {}, interval: null }),
  usualType: ({ linkId, address }, links) => {
    const link = links(linkId)
    const facts = link && protocolOf(link.kind).describe(address, link.settings)
    return facts?.ok ? facts.defaultType : null
  },
  problems: (tag, links) => {
    const link = links(tag.source.linkId)
    if (!link) return [{ path: 'source.linkId', message: 'This link is not there any more; choose another.' }]
    const options = linkContracts[link.kind].point.safeParse(tag.source.options)
    if (!options.success) return options.error.issues.map(({ path, message }) => ({ path: ['source.options', ...path].join('.'), message }))
    return protocolOf(link.kind)
      .problems({ ...pointOf(tag), options: options.data }, link.settings)
      .map(({ field, message }) => ({ path: isCommon(field) ? field : `source.${field}`, message }))
  },
  settled: (tag, links) => {
    const { kind, settings } = links(tag.source.linkId)!
    const facts = protocolOf(kind).describe(tag.source.address, settings)
    const options = linkContracts[kind].point.parse(tag.source.options)
    return facts.ok ? { ...tag, source: { ...tag.source, address: facts.canonical, options } } : tag
  },
  isSame: (a, b) =>
    a.linkId === b.linkId &&
    a.address === b.address &&
    (a.options === b.options || JSON.stringify(a.options) === JSON.stringify(b.options)),
}

import { z } from 'zod'
import { linkKinds, protocolOf, type LinkKind } from '#core/links/registry'
import { idField, nameField, savedShape } from '#core/contracts/fields'
import { ofKind } from '../kinds'
import { oddValues } from '../shaping'
import { linkContracts } from './registry'

const settingsContracts = Object.fromEntries(linkKinds.map((kind) => [kind, linkContracts[kind].settings])) as unknown as Record<
  LinkKind,
  z.ZodType<LinkSettings>
>

const draftShape = {
  name: nameField('link'),
  on: z.boolean().default(true),
  nodeId: idField('A node').nullable().default(null).describe('The node that runs it; null: this site’s own engine.'),
  odd: oddValues.nullable().default(null).describe('What becomes of odd values of its points; null: as usual.'),
}

/** What a person enters to make or change a link: settings are checked by the contract of the kind, defaults filled in. */
export const linkContract = ofKind(draftShape, settingsContracts).meta({ id: 'LinkDraft' })

export type SettingsOf<K extends LinkKind> = z.output<(typeof linkContracts)[K]['settings']>
export type LinkSettings = { [K in LinkKind]: SettingsOf<K> }[LinkKind]
export type LinkDraft = z.output<typeof linkContract>
/** What a link has besides, where nothing is chosen. */
export const plainLink = { on: true, odd: null, nodeId: null }

/** A saved link. `revision` is the site revision that last changed it. */
export interface Link extends LinkDraft {
  id: number
  revision: number
}
export const savedLink: z.ZodType<Link> = ofKind({ ...draftShape, ...savedShape }, settingsContracts).meta({ id: 'Link' })

/** Changes name the revision they started from, so that two people cannot overwrite each other unseen. */
export const linkChange = z.object({ revision: idField('A revision'), link: linkContract })

/** A draft to be tried. `linkId` names the saved link whose secrets it keeps. */
export const linkTrial = z.object({ link: linkContract, linkId: idField('A link').nullable().default(null) })

/** Where a link goes, as lists show it. */
export const placeOf = (link: LinkDraft) => protocolOf(link.kind).place(link.settings)

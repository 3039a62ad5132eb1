import { z } from 'zod'
import { outletKinds, type OutletKind } from '#core/outlets/registry'
import { idField, nameField, savedShape } from '#core/contracts/fields'
import { ofKind } from '../kinds'
import { outletContracts } from './registry'

const draftShape = {
  name: nameField('outlet'),
  on: z.boolean().default(true),
  nodeId: idField('A node')
    .nullable()
    .default(null)
    .describe('The node that runs it, with the tags of its links; null: this site’s own engine.'),
}

const settingsContracts = Object.fromEntries(outletKinds.map((kind) => [kind, outletContracts[kind]])) as unknown as Record<
  OutletKind,
  z.ZodType<OutletSettings>
>

export const outletContract = ofKind(draftShape, settingsContracts).meta({ id: 'OutletDraft' })

export type OutletSettingsOf<K extends OutletKind> = z.output<(typeof outletContracts)[K]>
export type OutletSettings = { [K in OutletKind]: OutletSettingsOf<K> }[OutletKind]
export type OutletDraft = z.output<typeof outletContract>

/** The settings of an outlet of a kind; null: it is of another. */
export const settingsAs = <K extends OutletKind>(kind: K, outlet: Pick<OutletDraft, 'kind' | 'settings'>): OutletSettingsOf<K> | null =>
  outlet.kind === kind ? (outlet.settings as OutletSettingsOf<K>) : null

export interface Outlet extends OutletDraft {
  id: number
  revision: number
}
export const savedOutlet: z.ZodType<Outlet> = ofKind({ ...draftShape, ...savedShape }, settingsContracts).meta({ id: 'Outlet' })

export const outletChange = z.object({ revision: idField('A revision'), outlet: outletContract })

import { z } from 'zod'
import type { OutletKind } from '#core/outlets/registry'
import { idField, nameField, savedShape } from '#core/contracts/fields'
import { ofKind } from '../kinds'
import { outletContracts } from './registry'

const draftShape = { name: nameField('outlet'), on: z.boolean().default(true) }

export const outletContract = ofKind(draftShape, outletContracts).meta({ id: 'OutletDraft' })

export type OutletSettingsOf<K extends OutletKind> = z.output<(typeof outletContracts)[K]>
export type OutletDraft = z.output<typeof outletContract>

export interface Outlet extends OutletDraft {
  id: number
  revision: number
}
export const savedOutlet: z.ZodType<Outlet> = ofKind({ ...draftShape, ...savedShape }, outletContracts).meta({ id: 'Outlet' })

export const outletChange = z.object({ revision: idField('A revision'), outlet: outletContract })

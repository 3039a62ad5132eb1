import { z } from 'zod'
import { outletKinds, type OutletKind } from '#core/outlets/registry'
import { idField, nameField } from '../fields'
import { ofKind } from '../kinds'
import { outletContracts } from './registry'

export const outletContract = ofKind(
  z.object({
    name: nameField('outlet'),
    kind: z.enum(outletKinds),
    on: z.boolean().default(true),
    settings: z.unknown(),
  }),
  outletContracts,
)

export type OutletSettingsOf<K extends OutletKind> = z.output<(typeof outletContracts)[K]>
export type OutletDraft = z.output<typeof outletContract>

export interface Outlet extends OutletDraft {
  id: number
  revision: number
}

export const outletChange = z.object({ revision: idField('A revision'), outlet: outletContract })

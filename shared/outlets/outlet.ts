import { z } from 'zod'
import { idField, nameField } from '../fields'
import { ofKind } from '../kinds'
import { opcuaServerSettings } from './opcuaServer'

/** Every kind of outlet with its settings contract. A new one adds its line here and in `outletTitles`. */
const outletSettings = { 'opcua-server': opcuaServerSettings } as const
export const outletTitles = { 'opcua-server': 'OPC UA server' } as const satisfies Record<OutletKind, string>

export type OutletKind = keyof typeof outletSettings
const outletKinds = Object.keys(outletSettings) as [OutletKind, ...OutletKind[]]

export const outletContract = ofKind(
  z.object({
    name: nameField('outlet'),
    kind: z.enum(outletKinds),
    on: z.boolean().default(true),
    settings: z.unknown(),
  }),
  outletSettings,
)

export type OutletDraft = z.output<typeof outletContract>

export interface Outlet extends OutletDraft {
  id: number
  revision: number
}

export const outletChange = z.object({ revision: idField('A revision'), outlet: outletContract })

import { z } from 'zod'
import { portField } from '../fields'

/** The OPC UA server. It listens on this machine's loopback only. */
export const opcuaServerSettings = z.object({
  port: portField.default(4840),
  /** Writing by anonymous clients; where a tag itself may be written. */
  anonymousMayWrite: z.boolean().default(true),
})

export type OpcuaServerSettings = z.output<typeof opcuaServerSettings>

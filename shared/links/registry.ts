import type { z } from 'zod'
import type { LinkKind } from '#core/links/registry'
import { modbusTcpSettings } from './modbusTcp'

/** The settings contract of every link kind. A new protocol adds its line here. */
export const linkSettings = { 'modbus-tcp': modbusTcpSettings } as const satisfies Record<LinkKind, z.ZodType>

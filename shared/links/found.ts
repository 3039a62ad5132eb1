import { z } from 'zod'
import type { Found } from '#core/opcua/offers'
import { modes, policies } from '#core/opcua/settings'
import { certificateFacts } from '../certificates'

const offer = z
  .object({
    policy: z.enum(policies),
    mode: z.enum(modes),
    identities: z.array(z.enum(['anonymous', 'password', 'certificate'])),
    url: z.string().describe('The address that the server gives for it.'),
    answersAs: z.string().describe('The address that did answer, where this machine cannot use the server’s own.'),
    note: z.string().describe('Why it is another one; empty when it is not.'),
    certificate: z.object({ facts: certificateFacts, der: z.string() }).nullable(),
    level: z.number(),
  })
  .meta({ id: 'Offer', description: 'One way into a server, as it offers it, and how it can be reached from here.' })

const foundServer = z.object({ name: z.string(), applicationUri: z.string(), addresses: z.array(z.string()), isThisOne: z.boolean() })

/** What an OPC UA server answers (`Found`). */
const opcuaFound: z.ZodType<Found> = z.object({ servers: z.array(foundServer), offers: z.array(offer) }).meta({ id: 'OpcuaFound' })

/** What the far side answers when it is asked which ways in there are, by the kinds of links that can ask. */
export interface FoundBy {
  opcua: Found
}
export type AnyFound = FoundBy[keyof FoundBy]
export const anyFound: z.ZodType<AnyFound> = opcuaFound

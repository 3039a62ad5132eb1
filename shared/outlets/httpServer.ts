import { z } from 'zod'
import { nameField, wholeNumber } from '#core/contracts/fields'
import { secretField } from '#core/contracts/secret'
import { endpointContract } from '#core/endpoints/settings'
import { clashesIn, doorPlace } from './doors'
import { folderRules } from './folderRules'

/** One door of the server: where it listens, and how a program may come in. */
const door = z
  .object({
    ...doorPlace(8580),
    tls: z.boolean().default(false).describe('Encrypted, with our own certificate.'),
    anonymous: z.boolean().default(true),
    names: z.boolean().default(false),
  })
  .refine((d) => d.anonymous || d.names, { message: 'Nobody could come in: allow programs without a name, or names.', path: ['names'] })

const user = z.object({
  name: nameField('program'),
  token: secretField('A token.').describe('Sent as “Bearer name.token”, or as the password of this name (Basic).'),
  rules: folderRules.prefault([{ folder: '', may: 'read' }]),
})

const origin = z
  .string({ error: 'An origin is text.' })
  .trim()
  .regex(/^https?:\/\/[A-Za-z0-9.[\]:-]+$/, 'An origin is as in https://office.port.example, without a path.')

/** How much programs may take, so that one leaves something for the others. */
const limits = z.object({
  connections: wholeNumber('The most connections of a door', 1, 10_000).default(500),
  perAddress: wholeNumber('The most connections from one address', 1, 10_000).default(100),
  atOnce: wholeNumber('The most requests at once', 1, 10_000).default(200),
  perMinute: wholeNumber('The most requests a minute', 1, 10_000_000).default(60_000).describe('Of one program.'),
  body: wholeNumber('The largest body', 1, 10_240).default(256).describe('kB'),
  streams: wholeNumber('The most who follow changes', 1, 1000).default(100),
})

/** An HTTP server: its doors, who may come in and do what, and the endpoints that are there besides the tags. */
export const httpServerSettings = z
  .object({
    doors: z.array(door).min(1, 'At least one door.').max(16, 'At most 16 doors.').prefault([{}]),
    /** What programs without a name may do. */
    anonymous: folderRules.prefault([{ folder: '', may: 'read' }]),
    users: z.array(user).max(200, 'At most 200 names.').default([]),
    endpoints: z.array(endpointContract).max(200, 'At most 200 endpoints.').default([]),
    origins: z.array(origin).max(50, 'At most 50 origins.').default([]).describe('Pages from there may ask in a browser.'),
    limits: limits.prefault({}),
  })
  .superRefine(({ doors, users }, context) => clashesIn(doors, users, context))

export type HttpServerSettings = z.output<typeof httpServerSettings>
export type HttpDoor = HttpServerSettings['doors'][number]
export type HttpUser = HttpServerSettings['users'][number]

/** What goes for the name of those who show none. */
export const withoutNameText = 'without a name'

/** By what programs dial a door. */
export const httpSchemeOf = ({ tls }: Pick<HttpDoor, 'tls'>) => (tls ? 'https' : 'http')

/** What a program sends to show whose it is. */
export const bearerOf = (name: string, token: string) => `${encodeURIComponent(name)}.${token}`

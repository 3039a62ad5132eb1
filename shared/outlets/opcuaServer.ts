import { z } from 'zod'
import { modes, policies } from '#core/opcua/settings'
import { leastMost, ownNameProblem, mostLetters } from '#core/tags/shortNames'
import { hostField, nameField, portField, wholeNumber } from '#core/contracts/fields'
import { secretField } from '#core/contracts/secret'
import { pairedWith } from '#core/pairing/facts'
import { clashesIn, doorPlace } from './doors'
import { folderRules } from './folderRules'

/** How a client may come in, over whichever connection. */
const entrance = (policy: (typeof policies)[number]) => ({
  policies: z.array(z.enum(policies)).min(1, 'At least one policy.').default([policy]),
  modes: z.array(z.enum(modes).exclude(['None'])).default(['SignAndEncrypt']),
  anonymous: z.boolean().default(true),
  names: z.boolean().default(false),
  certificates: z.boolean().default(false),
})

export type Entrance = z.output<z.ZodObject<ReturnType<typeof entrance>>>

const thatLetsIn = <E extends z.ZodType<Entrance>>(contract: E) =>
  contract
    .refine((d) => d.modes.length > 0 || d.policies.every((policy) => policy === 'None'), {
      message: 'A policy that secures needs Sign, or Sign & encrypt.',
      path: ['modes'],
    })
    .refine((d) => !(d.names || d.certificates) || d.policies.some((policy) => policy !== 'None'), {
      message: 'Names and certificates need a policy that secures.',
      path: ['policies'],
    })
    .refine((d) => d.anonymous || d.names || d.certificates, {
      message: 'Nobody could come in: allow anonymous clients, names or certificates.',
      path: ['names'],
    })

/** One door of the server: where it listens, and how a client may come in. */
const door = thatLetsIn(z.object({ ...doorPlace(4840), ...entrance('None') }))

/** A client that the server dials (OPC 10000-6, 7.1.3), because it cannot be dialled from there, and how it may come in then. */
const dialled = thatLetsIn(
  z.object({
    on: z.boolean().default(true),
    host: hostField.describe('Where the client awaits us.'),
    port: portField.default(4843),
    ...entrance('Basic256Sha256'),
  }),
)

const everything = [{ folder: '', may: 'write' as const }]

const user = z.object({
  name: nameField('user'),
  key: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('password'), password: secretField('A password.') }),
    z.object({
      kind: z.literal('certificate'),
      certificate: z
        .string()
        .trim()
        .max(20_000, 'A certificate has at most 20,000 characters.')
        .refine(
          (text) => text.includes('-----BEGIN CERTIFICATE-----'),
          'A certificate as PEM: it starts with -----BEGIN CERTIFICATE-----.',
        ),
    }),
  ]),
  rules: folderRules.prefault([{ folder: '', may: 'read' }]),
})

const ownShortName = z.object({ path: z.string().min(1, 'The path of a tag or folder.').max(240), name: z.string().trim() })

/** A unique flat name for every tag and folder, for consumers that take no depth, dots or spaces. */
const shortNames = z
  .object({
    on: z.boolean().default(false),
    /** Characters that the consumer takes. */
    most: wholeNumber('The longest short name', leastMost, 120).default(mostLetters),
    own: z.array(ownShortName).max(20_000, 'At most 20,000 short names of your own.').default([]),
  })
  .superRefine(({ most, own }, context) => {
    for (const [i, { name }] of own.entries()) {
      const problem = ownNameProblem(name, most)
      if (problem) context.addIssue({ code: 'custom', path: ['own', i, 'name'], message: problem })
    }
  })

/** Points that no tag covers, for clients that name link, address and type. */
const onRequest = z.object({
  on: z.boolean().default(false),
  most: wholeNumber('The most points at once', 1, 10_000).default(100),
  mayWrite: z.boolean().default(false),
})

/** How much clients may take, so that one leaves something for the others. */
const limits = z.object({
  connections: wholeNumber('The most connections of a door', 1, 1000).default(100),
  perAddress: wholeNumber('The most connections from one address', 1, 1000).default(25),
  sessions: wholeNumber('The most sessions', 1, 1000).default(100),
  items: wholeNumber('The most items', 1, 1_000_000).default(200_000),
  itemsPerSession: wholeNumber('The most items of a session', 1, 1_000_000).default(100_000),
  itemsPerGuest: wholeNumber('The most items of a guest', 1, 1_000_000).default(100_000),
  queue: wholeNumber('The longest queue of an item', 1, 5000).default(100),
})

/** The OPC UA server: its doors, who may come in and what each sees, and what is shown besides tags. */
export const opcuaServerSettings = z
  .object({
    doors: z.array(door).min(1, 'At least one door.').max(16, 'At most 16 doors.').prefault([{}]),
    /** Clients that do not dial us: we dial them. */
    dialled: z.array(dialled).max(16, 'At most 16 clients that are dialled.').default([]),
    /** The copy of this application that it was paired with by a code. */
    paired: pairedWith.nullable().default(null),
    /** What of the site is shown here at all. */
    shows: folderRules.prefault(everything),
    /** What clients without an identity may do. */
    anonymous: folderRules.prefault([{ folder: '', may: 'read' }]),
    users: z.array(user).max(200, 'At most 200 users.').default([]),
    shortNames: shortNames.prefault({}),
    onRequest: onRequest.prefault({}),
    /** Whether the links' state, counts and last error are nodes, too. */
    health: z.boolean().default(true),
    limits: limits.prefault({}),
  })
  .superRefine(({ doors, dialled: clients, users }, context) => {
    clashesIn(doors, users, context)
    for (const [i, { host, port }] of clients.entries())
      if (clients.findIndex((other) => other.host.toLowerCase() === host.toLowerCase() && other.port === port) < i)
        context.addIssue({ code: 'custom', path: ['dialled', i, 'port'], message: `${host}:${port} is dialled already.` })
  })

export type OpcuaServerSettings = z.output<typeof opcuaServerSettings>
export type Door = OpcuaServerSettings['doors'][number]
export type DialledClient = OpcuaServerSettings['dialled'][number]
export type OutletUser = OpcuaServerSettings['users'][number]

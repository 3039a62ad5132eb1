import { z } from 'zod'
import { milliseconds, portField, wholeNumber, writeWithin } from '../contracts/fields'
import { deadbandKinds } from '../tags/reports'
import { secretField } from '../contracts/secret'
import { pairedWith } from '../pairing/facts'
import { pathProblem } from '../tags/path'
import { parseEndpoint } from './endpointAddress'
import { parseNodeAddress } from './nodeId'

export const policies = ['None', 'Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'] as const
export type Policy = (typeof policies)[number]
export const modes = ['None', 'Sign', 'SignAndEncrypt'] as const
export type Mode = (typeof modes)[number]
export const modeText: Record<Mode, string> = { None: 'neither signed nor encrypted', Sign: 'Sign', SignAndEncrypt: 'Sign & encrypt' }

const noAddress = 'Type a host and port, such as arm1.port.example:4840, or a full opc.tcp:// address.'

const address = z
  .string({ error: 'An address is a host and port, or opc.tcp://host:port.' })
  .trim()
  .max(500, 'An address has at most 500 characters.')
  .superRefine((text, context) => {
    if (text === '') return
    const parsed = parseEndpoint(text)
    if (!parsed.ok) context.addIssue({ code: 'custom', message: parsed.problem })
  })

/** Where a server that opens the connection itself is awaited (OPC 10000-6, 7.1.3): firewalls there need no hole. */
const awaits = z.object({
  interface: z
    .union([z.ipv4(), z.ipv6()], { error: 'The numeric address of an interface; 0.0.0.0 for all.' })
    .default('127.0.0.1')
    .describe('The interface of this machine on which it is awaited; 0.0.0.0: all of them.'),
  port: portField.default(4843).describe('The TCP port that it dials. Several links may await their servers at one.'),
  serverUri: z
    .string()
    .trim()
    .max(4096, 'An application URI has at most 4096 characters.')
    .default('')
    .describe('The application URI of the server that is meant; empty: whichever dials.'),
})

/** Everything below a place there becomes tags here, and goes on following it. */
const takesOver = z.object({
  place: z
    .string()
    .trim()
    .max(4200, 'A NodeId has at most 4200 characters.')
    .superRefine((text, context) => {
      const parsed = text === '' ? null : parseNodeAddress(text)
      if (parsed && !parsed.ok) context.addIssue({ code: 'custom', message: parsed.problem })
    })
    .default('')
    .describe('The node below which everything is taken over; empty: all objects.'),
  namespaces: z
    .array(z.string().trim().min(1, 'The URI of a namespace.').max(4096, 'A URI has at most 4096 characters.'))
    .max(20, 'At most 20 namespaces.')
    .default([])
    .describe('Only nodes of these namespaces, by their URIs; empty: of all.'),
  folder: z
    .string()
    .trim()
    .max(160, 'A folder has at most 160 characters.')
    .superRefine((path, context) => {
      const problem = path === '' ? null : pathProblem(path)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    })
    .default('')
    .describe('The folder of ours that they stand in; empty: as they stand there.'),
  gone: z.enum(['keep', 'remove']).default('keep').describe('What becomes of tags whose nodes are gone there.'),
})

const identity = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('anonymous') }),
  z.object({ kind: z.literal('ours') }).describe('Our own application certificate.'),
  z.object({
    kind: z.literal('password'),
    user: z.string().trim().min(1, 'The name to sign in with.').max(200, 'A name has at most 200 characters.'),
    password: secretField('The password to sign in with.'),
    inClear: z.boolean().default(false).describe('The password may travel readable, where the server offers no better.'),
  }),
  z.object({
    kind: z.literal('certificate'),
    certificate: z
      .string()
      .trim()
      .refine((text) => text.includes('-----BEGIN CERTIFICATE-----'), 'A certificate as PEM: it starts with -----BEGIN CERTIFICATE-----.'),
    key: secretField('The private key that belongs to the certificate, as PEM.'),
  }),
])

/** What an OPC UA link is set to. Everything but the address has a default that fits most servers. */
export const opcuaSettings = z
  .object({
    address: address.default('').describe('As typed: host, host:port, or the full address. Not asked for where the server dials.'),
    awaits: awaits.nullable().default(null).describe('Where the server opens the connection: at which door here. Null: we dial it.'),
    policy: z.enum(policies).default('None'),
    mode: z.enum(modes).default('None'),
    identity: identity.default({ kind: 'anonymous' }),
    reading: z
      .object({
        publishing: milliseconds('The publishing interval', 10, 3_600_000)
          .default(500)
          .describe('How often the server tells what changed, ms.'),
        sampling: milliseconds('The sampling interval', 0, 3_600_000)
          .default(250)
          .describe('How often it looks, ms. 0: as fast as it can.'),
        queue: wholeNumber('The queue', 1, 10_000)
          .default(1)
          .describe('Values that wait between two notifications; with 1 only the newest is told.'),
        fillGaps: z.boolean().default(true).describe('After an outage ask for what the server recorded meanwhile, for tags recorded here.'),
        readInstead: z.boolean().default(true).describe('Where notifications stay out although reads work: read instead.'),
      })
      .prefault({}),
    patience: z
      .object({
        connect: milliseconds('The time to connect', 100, 60_000).default(5000),
        answer: milliseconds('The time to answer', 100, 120_000).default(10_000),
        retryFirst: milliseconds('The first pause', 100, 600_000).default(1000),
        retryMost: milliseconds('The longest pause', 100, 3_600_000).default(30_000),
        session: milliseconds('The session time-out', 5000, 3_600_000).default(60_000),
      })
      .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
      .prefault({}),
    paired: pairedWith
      .nullable()
      .default(null)
      .describe('The copy of this application that it was paired with by a code; no other will do.'),
    takesOver: takesOver
      .nullable()
      .default(null)
      .describe('Everything below a place there becomes tags here. Null: tags are made by hand.'),
    writes: z
      .object({
        keep: z.enum(['all', 'latest']).default('all'),
        within: writeWithin.describe('So long a write may wait, ms; what was not sent by then is not sent at all.'),
      })
      .prefault({}),
  })
  .refine(({ policy, mode }) => (policy === 'None') === (mode === 'None'), {
    message: 'A policy goes with Sign or Sign & encrypt, and None with None.',
    path: ['mode'],
  })
  .refine(({ address, awaits }) => awaits !== null || address !== '', { message: noAddress, path: ['address'] })

export type OpcuaSettings = z.output<typeof opcuaSettings>

/** OPC 10000-4, 7.22.2. */

/** What a point of an OPC UA link may have of its own. */
export const opcuaPoint = z.object({
  member: z.string().trim().max(400, 'At most 400 characters.').optional().describe('The way into a structure or an array.'),
  deadband: z
    .object({
      kind: z.enum(deadbandKinds),
      value: z.number({ error: 'A deadband is a number.' }).min(0, 'A deadband is 0 or more.'),
    })
    .optional()
    .describe('Changes smaller than this stay at the source (OPC 10000-4, 7.22.2).'),
  takenOver: z.literal(true).optional().describe('Made by taking over what is there; it follows that.'),
})

export type OpcuaPointOptions = z.output<typeof opcuaPoint>
export type Identity = OpcuaSettings['identity']

import { z } from 'zod'
import { modes, policies } from '#core/opcua/settings'
import { hostField, nameField, portField } from '../fields'
import { secretField } from '../secrets'

export const loopback = '127.0.0.1'

/** One door of the server: where it listens, and how a client may come in. */
const door = z
  .object({
    on: z.boolean().default(true),
    /** Numeric address of one of this machine's interfaces; 0.0.0.0 for all of them. */
    interface: z.union([z.ipv4(), z.ipv6()], { error: 'The numeric address of an interface; 0.0.0.0 for all.' }).default(loopback),
    port: portField.default(4840),
    /** The host that clients are told; empty: the interface's address, or this machine's name. */
    giveOut: z.union([z.literal(''), hostField]).default(''),
    policies: z.array(z.enum(policies)).min(1, 'At least one policy.').default(['None']),
    modes: z.array(z.enum(modes).exclude(['None'])).default(['SignAndEncrypt']),
    anonymous: z.boolean().default(true),
    names: z.boolean().default(false),
  })
  .refine((d) => d.modes.length > 0 || d.policies.every((policy) => policy === 'None'), {
    message: 'A policy that secures needs Sign, or Sign & encrypt.',
    path: ['modes'],
  })
  .refine((d) => d.anonymous || d.names, { message: 'Nobody could come in: allow anonymous clients, or names.', path: ['names'] })

const user = z.object({
  name: nameField('user'),
  password: secretField('A password.'),
  mayWrite: z.boolean().default(false),
})

/** The OPC UA server: its doors, and who may come in by name. */
export const opcuaServerSettings = z
  .object({
    doors: z.array(door).min(1, 'At least one door.').max(16, 'At most 16 doors.').prefault([{}]),
    /** Writing by anonymous clients; where a tag itself may be written. */
    anonymousMayWrite: z.boolean().default(true),
    users: z.array(user).max(200, 'At most 200 users.').default([]),
  })
  .superRefine(({ doors, users }, context) => {
    for (const [i, one] of doors.entries()) {
      const other = doors.findIndex((candidate, k) => k < i && collides(candidate, one))
      if (other >= 0) context.addIssue({ code: 'custom', path: ['doors', i, 'port'], message: `Door ${other + 1} has this port already.` })
    }
    for (const [i, { name }] of users.entries())
      if (users.findIndex((candidate) => candidate.name.toLowerCase() === name.toLowerCase()) < i)
        context.addIssue({ code: 'custom', path: ['users', i, 'name'], message: `“${name}” stands here twice.` })
  })

export type OpcuaServerSettings = z.output<typeof opcuaServerSettings>
export type Door = OpcuaServerSettings['doors'][number]

const everywhere = new Set(['0.0.0.0', '::'])

/** Two doors cannot listen on one port of one interface. */
export const collides = (a: Pick<Door, 'interface' | 'port'>, b: Pick<Door, 'interface' | 'port'>) =>
  a.port === b.port && (a.interface === b.interface || everywhere.has(a.interface) || everywhere.has(b.interface))

export const isOpenToOthers = ({ interface: address }: Pick<Door, 'interface'>) => !/^127\./.test(address) && address !== '::1'

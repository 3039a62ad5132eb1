import { z } from 'zod'
import { hostField, portField } from '#core/contracts/fields'

export const loopback = '127.0.0.1'

/** Where a door of any outlet listens, and what clients are told to dial. */
export const doorPlace = (port: number) => ({
  on: z.boolean().default(true),
  /** Numeric address of one of this machine's interfaces; 0.0.0.0 for all of them. */
  interface: z.union([z.ipv4(), z.ipv6()], { error: 'The numeric address of an interface; 0.0.0.0 for all.' }).default(loopback),
  port: portField.default(port),
  /** The host that clients are told; empty: the interface's address, or this machine's name. */
  giveOut: z.union([z.literal(''), hostField]).default(''),
})

export interface DoorPlace {
  on: boolean
  interface: string
  port: number
  giveOut: string
}

/** The doors of an outlet of any kind; some go to others, and have none. */
export const doorsOf = (settings: object): readonly DoorPlace[] => ('doors' in settings ? (settings.doors as DoorPlace[]) : [])

const everywhere = new Set(['0.0.0.0', '::'])
export const isEverywhere = (address: string) => everywhere.has(address)

/** Two doors cannot listen on one port of one interface. */
export const collides = (a: Pick<DoorPlace, 'interface' | 'port'>, b: Pick<DoorPlace, 'interface' | 'port'>) =>
  a.port === b.port && (a.interface === b.interface || everywhere.has(a.interface) || everywhere.has(b.interface))

export const isOpenToOthers = ({ interface: address }: Pick<DoorPlace, 'interface'>) => !/^127\./.test(address) && address !== '::1'

/** What is wrong among the doors and the names of one outlet, told at the field. */
export const clashesIn = (doors: readonly DoorPlace[], users: readonly { name: string }[], context: z.RefinementCtx, list = 'users') => {
  for (const [i, one] of doors.entries()) {
    const other = doors.findIndex((candidate, k) => k < i && collides(candidate, one))
    if (other >= 0) context.addIssue({ code: 'custom', path: ['doors', i, 'port'], message: `Door ${other + 1} has this port already.` })
  }
  for (const [i, { name }] of users.entries())
    if (users.findIndex((candidate) => candidate.name.toLowerCase() === name.toLowerCase()) < i)
      context.addIssue({ code: 'custom', path: [list, i, 'name'], message: `“${name}” stands here twice.` })
}

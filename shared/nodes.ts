import { z } from 'zod'
import { hostField, lineField, momentField, nameField, portField, savedShape, wholeNumber } from '#core/contracts/fields'
import { faultContract } from './faults'
import { flow } from './flow'
import { notInForce } from './notInForce'

const noHost = 'Type where it is reached: a name or a numeric address.'

/** Where nodes come in. */
export const nodeDoor = z
  .object({
    host: z
      .string({ error: noHost })
      .trim()
      .min(1, noHost)
      .pipe(hostField)
      .describe('Where nodes reach this machine: a name or a numeric address, outside of address translation.'),
    outsidePort: portField.nullable().default(null).describe('The port there, where address translation makes another one of it.'),
    interface: z
      .union([z.ipv4(), z.ipv6()], { error: 'The numeric address of an interface; 0.0.0.0 for all.' })
      .default('0.0.0.0')
      .describe('The interface of this machine that listens.'),
    port: portField.default(8471),
  })
  .meta({ id: 'NodeDoor' })
export type NodeDoor = z.output<typeof nodeDoor>

const nodeShape = {
  name: nameField('node'),
  note: lineField('A note', 200).default('').describe('Where it stands, and what it is for.'),
  standsBy: z
    .boolean()
    .default(false)
    .describe('Whether its machine shares the database, and leads the site when the one that leads it is gone. Else it runs links only.'),
  door: nodeDoor.nullable().default(null).describe('Where nodes reach a machine that stands by, once it leads.'),
}
const needsDoor = {
  error: 'Say where the others reach a machine that stands by, once it leads.',
  path: ['door', 'host'],
}

/** What a person says of a node. */
export const nodeDraft = z
  .object(nodeShape)
  .refine(({ standsBy, door }) => !standsBy || door !== null, needsDoor)
  .meta({ id: 'NodeDraft' })
export type NodeDraft = z.output<typeof nodeDraft>

const keyShape = {
  key: z
    .string()
    .regex(/^[0-9a-f]{64}$/, 'A SHA-256, hexadecimal.')
    .nullable()
    .default(null)
    .describe('By which it is known: SHA-256 of its public key, hexadecimal; null: no machine came in yet.'),
}

/** A node as it is configured: a machine that runs links of this site, or that stands by for the whole of it. */
export const nodeContract = z.object({ ...nodeShape, ...keyShape })
export type SiteNode = z.output<typeof nodeContract>
export const savedNode = nodeContract.extend(savedShape).meta({ id: 'Node' })
export type SavedNode = z.output<typeof savedNode>

export const nodeCodeDraft = z.object({
  minutes: wholeNumber('How long it holds', 1, 1440).default(60).describe('How long the code holds, minutes.'),
})

/** A code by which a machine becomes a node. */
export const nodeCode = z
  .object({
    node: z.int(),
    code: z
      .string()
      .describe('The address of the door, the beginning of the fingerprint of the site’s authority, and a secret for one use.'),
    command: z.string().describe('What is typed on the machine that is to be the node.'),
    endsAt: momentField,
    by: z.string().describe('Who made it.'),
    tries: z.int().describe('Wrong proofs that came so far.'),
  })
  .meta({ id: 'NodeCode' })
export type NodeCode = z.output<typeof nodeCode>

const mb = z.int().nullable()
/** The machine of a node, as it tells. */
export const nodeMachine = z
  .object({
    host: z.string().max(300),
    system: z.string().max(300),
    cores: z.int(),
    load: z.number().describe('Processes that run or wait to, on average over the last minute.'),
    memoryMb: z.int(),
    memoryFreeMb: z.int(),
    diskMb: mb,
    diskFreeMb: mb.describe('What is left where it keeps its state.'),
    upSeconds: z.int(),
  })
  .meta({ id: 'NodeMachine' })
export type NodeMachine = z.output<typeof nodeMachine>

/** How a node is, as this site sees it. */
export const nodeStatus = z
  .object({
    id: z.int(),
    name: z.string(),
    flow,
    sentence: z.string().describe('What is happening, for a person.'),
    fault: faultContract.nullable(),
    isConnected: z.boolean(),
    since: momentField.nullable().describe('Since when it is connected, or away; null: it never came in, as far as this engine knows.'),
    lastSeenAt: momentField.nullable(),
    from: z.string().describe('From which address it came last.'),
    version: z.string(),
    roundTripMs: z.number().nullable(),
    clockAheadMs: z.number().nullable().describe('Its clock ahead of ours, ms.'),
    revision: z.int().describe('Up to this one it has the configuration.'),
    wanted: z.int().describe('Up to this one it should.'),
    isBehind: z.boolean().describe('Whether something that concerns it is not in force there yet.'),
    notInForce: z.array(notInForce).describe('The first of what it could not bring into force.'),
    notInForceCount: z.int(),
    links: z.int(),
    tags: z.int(),
    goodTags: z.int(),
    waiting: z.int().describe('Samples of its record that wait there for this site.'),
    waitingSince: momentField.nullable(),
    changesPerSecond: z.number(),
    machine: nodeMachine.nullable(),
  })
  .meta({ id: 'NodeStatus' })
export type NodeStatus = z.output<typeof nodeStatus>

/** Which machine leads a site of several. */
export const leadStatus = z
  .object({
    node: z.int().describe('The node that leads.'),
    name: z.string(),
    since: momentField,
    fence: z.int().describe('Grows with each machine that begins to lead.'),
    holdsBy: z
      .enum(['database', 'promise'])
      .describe('What keeps the others from leading: the database; or, while it is away, that all others gave their word.'),
    canHandOver: z.array(z.int()).describe('Nodes that are connected and stand by: one of them could lead instead.'),
  })
  .meta({ id: 'LeadStatus' })
export type LeadStatus = z.output<typeof leadStatus>

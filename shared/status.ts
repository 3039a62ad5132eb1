import { z } from 'zod'
import { shownCertificate } from './certificates'
import { cause } from './causes'
import { faultContract } from './faults'
import { momentField } from '#core/contracts/fields'
import { alarmsStatus } from './alarms'
import { cloudPlatformDetails } from './outlets/cloudPlatformStatus'
import { httpServerDetails } from './outlets/httpServerStatus'
import { modbusServerDetails } from './outlets/modbusServerStatus'
import { mqttBrokerDetails } from './outlets/mqttBrokerStatus'
import { opcuaServerDetails } from './outlets/opcuaServerStatus'
import { bridgeStatus } from './bridges/status'
import { historyStatus } from './history'
import { recordSetStatus } from './records/status'
import { flow } from './flow'
import { apart } from './heldDatabase'
import { leadStatus, nodeStatus } from './nodes'
import { notInForce } from './notInForce'

export { notInForce, type NotInForce } from './notInForce'

/** What the engine tells about itself. Plain data: it crosses two sockets on its way to a page. */

const refusedPoint = z
  .object({ path: z.string(), address: z.string(), why: z.string() })
  .meta({ id: 'RefusedPoint', description: 'A tag whose address the far side does not give.' })
export type RefusedPoint = z.output<typeof refusedPoint>

const round = z.object({
  interval: z.number(),
  points: z.int(),
  requests: z.int(),
  predictedMs: z.number().nullable(),
  measuredMs: z.number().nullable(),
})

const sentence = z.string().describe('What is happening, for a person.')
const answerMs = z.number().nullable().describe('How long the last answer took, ms.')

const unitStatus = z
  .object({
    unit: z.string(),
    title: z.string().optional().describe('As a person would call it; left out: “Unit” and its number.'),
    flow,
    sentence,
    isSlow: z.literal(true).optional().describe('It answers, and a round of it takes longer than its tags ask for.'),
    answerMs,
    requests: z.int(),
    failures: z.int(),
    lateReplies: z.int(),
    foreignReplies: z.int(),
    rounds: z.array(round).describe('One entry per interval: what a round of it takes.'),
    leftOutUntil: momentField.nullable(),
    lastFault: faultContract.nullable(),
    refused: z.array(refusedPoint).describe('The first of what the far side refuses.'),
    refusedCount: z.int(),
  })
  .meta({ id: 'UnitStatus' })
export type UnitStatus = z.output<typeof unitStatus>

const farLink = z
  .object({
    ...{ name: z.string(), flow, sentence, tags: z.int(), goodTags: z.int(), answerMs },
    lastError: z.string().describe('Stays after it has recovered.'),
  })
  .meta({ id: 'FarLink', description: 'A link of the copy that a link is paired with.' })
export type FarLink = z.output<typeof farLink>

export const linkStatus = z
  .object({
    id: z.int(),
    flow,
    sentence,
    fault: faultContract.nullable().describe('With the next action, where there is one.'),
    tags: z.int(),
    goodTags: z.int(),
    answerMs,
    nextTryAt: momentField.nullable().optional().describe('When it tries again by itself what failed; null: nothing waits for that.'),
    requests: z.int().describe('Since the link was switched on.'),
    failures: z.int(),
    units: z.array(unitStatus).optional().describe('Parts of the far side that are asked by themselves, where its protocol has them.'),
    refused: z.array(refusedPoint).optional().describe('What the far side refuses, where it is not told by unit.'),
    behind: z.array(farLink).optional().describe('The links of the copy that it is paired with, those that are not well first.'),
    connections: z.int(),
    arrivals: z.int().optional().describe('What came and nobody decided about, where things are plugged in.'),
    certificate: shownCertificate.optional().describe('The certificate that waits for a decision.'),
  })
  .meta({ id: 'LinkStatus' })
export type LinkStatus = z.output<typeof linkStatus>

const clientStatus = z
  .object({
    id: z.string(),
    name: z.string(),
    from: z.string(),
    identity: z.string(),
    security: z.string(),
    flow: flow.describe('Late: it gives no sign of life, is slow, or did just not get what it asked for.'),
    since: momentField,
    items: z.int(),
    lastAsked: z.string().describe('Notifications are told apart: they come all the time.'),
    lastAskedAt: momentField,
    lastGot: z.string().describe('What came of it.'),
    refused: z
      .object({ text: z.string(), at: momentField })
      .nullable()
      .describe('The last thing it did not get; null: it got everything so far.'),
  })
  .meta({ id: 'ClientStatus' })
export type ClientStatus = z.output<typeof clientStatus>

/** The details of every kind of outlet. A new one adds its line here. */
const outletDetails = z.discriminatedUnion('kind', [
  opcuaServerDetails,
  mqttBrokerDetails,
  httpServerDetails,
  modbusServerDetails,
  cloudPlatformDetails,
])
export type OutletDetails = z.output<typeof outletDetails>

export const outletStatus = z
  .object({
    id: z.int(),
    flow,
    sentence,
    fault: faultContract.nullable(),
    addresses: z.array(z.string()).describe('Where consumers find it, ready to give out.'),
    clients: z.array(clientStatus).describe('Who is connected, where consumers connect.'),
    feeds: z
      .object({ links: z.array(z.int()), others: z.array(z.string()) })
      .describe('Where the tags come from that it shows: links by their ids, other sources by their kinds.'),
    items: z.int().describe('Values that consumers follow.'),
    changesPerSecond: z.number(),
    details: outletDetails.nullable().describe('What its kind tells besides; null while nothing runs.'),
  })
  .meta({ id: 'OutletStatus', description: 'What is told of every outlet.' })
export type OutletStatus = z.output<typeof outletStatus>

const sourceStatus = z
  .object({ kind: z.string(), tags: z.int(), goodTags: z.int() })
  .meta({ id: 'SourceStatus', description: 'A source of tags that is no link, by its kind.' })
export type SourceStatus = z.output<typeof sourceStatus>

const interfaceStatus = z
  .object({ name: z.string(), address: z.string(), network: z.string().describe('Address range of its network, as in 10.8.0.0/24.') })
  .meta({ id: 'InterfaceStatus', description: 'One address of the engine’s machine.' })
export type InterfaceStatus = z.output<typeof interfaceStatus>

export const heldDatabase = z
  .object({
    revision: z.int().describe('Its newest revision.'),
    at: momentField,
    who: z.string(),
    what: z.string(),
    site: z.string().describe('What the site is called there.'),
    since: momentField.describe('When the engine found that.'),
    inForce: z.object({ revision: z.int(), at: momentField.nullable() }).describe('The revision that is in force instead.'),
    apart: z.array(apart).describe('What is not there as it is in force.'),
    fault: faultContract,
  })
  .meta({ id: 'HeldDatabase', description: 'A database that is no continuation of what is in force: nothing of it is applied.' })
export type HeldDatabase = z.output<typeof heldDatabase>

/** What became of a saved revision. */
export const effect = z.object({
  revision: z.int(),
  state: z
    .enum(['in force', 'in part', 'not yet', 'held', 'unknown'])
    .describe(
      '“not yet”: the engine has not come to it. “held”: the database is no continuation of what is in force, and somebody has to decide. “unknown”: no engine is there to ask.',
    ),
  node: z.string().nullable(),
  waits: z
    .array(z.string())
    .default([])
    .describe('Nodes that it concerns, and that are not told yet: they get it once they are connected.'),
  things: z.array(notInForce).describe('What of it is not in force, and why.'),
})
export type Effect = z.output<typeof effect>

export const engineStatus = z.object({
  node: z.string(),
  now: momentField.describe('The engine’s clock, so that ages are right in a browser whose clock is not.'),
  startedAt: momentField,
  configurationRevision: z.int(),
  configurationFrom: z.enum(['database', 'last known']),
  databaseConnected: z.boolean(),
  heldDatabase: heldDatabase.nullable().default(null),
  upkeep: z
    .object({ now: z.int(), soon: z.int() })
    .default({ now: 0, soon: 0 })
    .describe('How much somebody has to see to so that the site goes on for years: at once, and before long.'),
  notInForce: z.array(notInForce).describe('The first of what is not as configured.'),
  notInForceCount: z.int(),
  links: z.array(linkStatus),
  bridges: z.array(bridgeStatus),
  recordSets: z.array(recordSetStatus),
  history: historyStatus,
  alarms: alarmsStatus,
  equipment: z.object({
    pieces: z.int().describe('Pieces of equipment.'),
    unbound: z.int().describe('Inputs of theirs that no tag is bound to.'),
  }),
  fileRoots: z.array(z.string()).describe('Folders of the engine’s machine below which links to files may write.'),
  nodes: z.array(nodeStatus).default([]).describe('Machines elsewhere that run links of this site.'),
  lead: leadStatus.nullable().default(null).describe('Which machine leads; null: the site has one machine.'),
  nodeDoorFault: faultContract.nullable().default(null).describe('Why the door of nodes is not open; null: it is, or there is none.'),
  sources: z.array(sourceStatus).describe('Sources of tags that are no links.'),
  outlets: z.array(outletStatus),
  interfaces: z.array(interfaceStatus),
  tags: z.int(),
  goodTags: z.int(),
  changesInPerSecond: z.number(),
  changesOutPerSecond: z.number(),
})
export type EngineStatus = z.output<typeof engineStatus>

/** The parts of the way of a value, from its source to whoever gets it. */
export const joints = ['link', 'point', 'tag', 'bridge', 'receiver', 'outlet', 'consumer'] as const
export type Joint = (typeof joints)[number]

/** What a step learned of the far side, beside whether it works. */
export const farSide = z
  .object({
    certificate: z.string().optional().describe('SHA-1 of the certificate that it showed, hexadecimal.'),
    peer: z.string().optional().describe('What it says of itself: name, version.'),
    clockAhead: z.number().optional().describe('Its clock ahead of ours, ms.'),
  })
  .describe('What a step learned of the far side.')
export type FarSide = z.output<typeof farSide>

export const checkStep = z
  .object({
    step: z.string(),
    title: z.string(),
    flow: z.enum([...flow.options, 'waiting']),
    evidence: z.string(),
    ms: z.number().nullable(),
    at: z.number().optional().describe('When it began, ms since the check began.'),
    fault: faultContract.nullable(),
    joint: z.enum(joints).optional().describe('Which part of the way it is of, where the way is more than one link or outlet.'),
    group: z.string().optional().describe('Under which heading it stands, where there are many steps.'),
    about: z
      .object({ subject: z.enum(['link', 'tag', 'bridge', 'outlet', 'recordSet']), id: z.int() })
      .optional()
      .describe('What it is about, where that is not what the path is of.'),
    certificate: shownCertificate.optional().describe('The certificate that a person should decide about, or may want to read.'),
    farSide: farSide.optional(),
    causes: z.array(cause).optional().describe('What it comes from, as the copy ranks it that walked this half of the way.'),
  })
  .meta({ id: 'CheckStep', description: 'One step on the way to the far side.' })
export type CheckStep = z.output<typeof checkStep>

import { checks, walk } from './pathChecks'
import { z } from 'zod'
import { endpointContract } from '#core/endpoints/settings'
import { modelPlan } from '../outlets/cloudPlatformStatus'
import { endpointOutcome } from '../outlets/endpointTrial'
import { listedName } from '../outlets/names'
import { outletChange, outletContract, savedOutlet } from '../outlets/outlet'
import { trafficPart } from '../traffic'
import { trafficQuery } from './links'
import { listQuery, listWhole, pageOf } from './lists'
import { unclaimedPage } from './unclaimed'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Outlets'

const example = { name: 'Plant server', kind: 'opcua-server', settings: { doors: [{ port: 4840 }] } } as const

export const listOutlets = operation('GET /outlets', {
  group,
  needs: 'look',
  does: 'The outlets: where consumers get values.',
  query: listQuery(['name', 'kind', 'id', 'revision'], listWhole),
  answer: pageOf(savedOutlet),
})

export const makeOutlet = operation('POST /outlets', {
  group,
  needs: 'configure',
  does: 'Makes an outlet.',
  body: outletContract,
  example,
  size: 'many',
  answer: savedOutlet,
  faults: ['entry.taken'],
})

export const showOutlet = operation('GET /outlets/{id}', {
  group,
  needs: 'look',
  does: 'An outlet.',
  answer: savedOutlet,
})

export const changeOutlet = operation('PUT /outlets/{id}', {
  group,
  needs: 'configure',
  does: 'Changes an outlet, unless somebody else did since.',
  body: outletChange,
  example: { revision: 5, outlet: example },
  size: 'many',
  answer: savedOutlet,
  faults: ['entry.taken', 'entry.edited', 'entry.kind'],
})

export const removeOutlet = operation('DELETE /outlets/{id}', {
  group,
  needs: 'configure',
  does: 'Removes an outlet; its clients are disconnected.',
  answer: removed,
  faults: ['entry.bridged'],
})

export const checkOutlet = operation('POST /outlets/{id}/check', {
  ...walk,
  group,
  does: 'Comes to the entries of an outlet as a consumer does, one line per step as it happens.',
  body: z.object({ entry: z.int().min(0).nullable().describe('Which of its entries, counted from 0; null: all of them.') }),
  example: { entry: 0 },
})

export const tryEndpoint = operation('POST /outlets/endpoints/try', {
  group,
  needs: 'configure',
  does: 'Answers an endpoint once as a draft has it. Rows and tags are really asked for; what is handed to bridges is only shown.',
  body: z.object({
    endpoint: endpointContract,
    given: z.record(z.string().max(100), z.string().max(20_000)).default({}).describe('What its parameters are given, by name.'),
    body: z.string().max(200_000).default('').describe('The body; empty: what parameters in the body are given.'),
  }),
  example: {
    endpoint: {
      path: '/berths/{berth}',
      does: { kind: 'tags', values: [{ name: 'kw', path: 'berth/{berth}/power' }] },
      answer: '{"kw": "{kw}"}',
    },
    given: { berth: '2' },
  },
  answer: endpointOutcome,
  engine: true,
  farSide: true,
})

export const disconnectClient = operation('POST /outlets/{id}/disconnect', {
  group,
  needs: 'operate',
  does: 'Ends a client’s session. It may come back; to keep it out, close the door.',
  body: z.object({ client: z.string().describe('Its id, as the status has it.') }),
  example: { client: '7' },
  answer: z.object({ disconnected: z.boolean() }),
  engine: true,
})

export const showModelPlan = operation('GET /outlets/{id}/model', {
  group,
  needs: 'look',
  does: 'What is to be done at a platform so that its model is the one of this site. It was compared when the platform was last read.',
  answer: modelPlan,
  engine: true,
  faults: ['outlet.off', 'outlet.no-model'],
})

export const readModel = operation('POST /outlets/{id}/model/read', {
  group,
  needs: 'operate',
  does: 'Has a platform tell its model now, and compares.',
  answer: modelPlan,
  engine: true,
  farSide: true,
  faults: ['outlet.off', 'outlet.no-model'],
})

export const applyModel = operation('POST /outlets/{id}/model/apply', {
  group,
  needs: 'configure',
  does: 'Carries out the plan at a platform, unless it is another one by now than the one that was seen.',
  body: z.object({
    digest: z.string().max(100).describe('By what the plan is known that was seen.'),
    removing: z.boolean().default(false).describe('Also removes there what is no longer here.'),
  }),
  example: { digest: '5f1c0d2ab97e44c08f3d6a11', removing: false },
  answer: modelPlan,
  engine: true,
  farSide: true,
  faults: ['outlet.off', 'outlet.no-model', 'cloud.plan-changed'],
})

export const listUnclaimedAtOutlet = operation('GET /outlets/{id}/unclaimed', {
  group,
  needs: 'look',
  does: 'Messages that clients send to an outlet and that nobody claims, by topic: form, rate and the last value.',
  query: listQuery(['-perSecond', 'topic', 'count', 'at'], listWhole),
  answer: unclaimedPage,
  engine: true,
  faults: ['outlet.off'],
})

export const outletChecks = operation('GET /outlets/{id}/checks', {
  ...checks,
  group,
  does: 'The last checks of the entries of an outlet, those that were made by themselves when it broke included; the newest first.',
})

export const outletTraffic = operation('GET /outlets/{id}/traffic', {
  group,
  needs: 'configure',
  does: 'What passed at the connections of an outlet. It is copied as long as somebody asks.',
  query: trafficQuery,
  answer: trafficPart,
  engine: true,
  faults: ['outlet.off'],
})

export const listNames = operation('GET /outlets/{id}/names', {
  group,
  needs: 'look',
  does: 'The short name of every folder and tag that the outlet shows.',
  query: listQuery(['path', 'name'], listWhole),
  answer: pageOf(listedName).extend({
    left: z.array(z.object({ path: z.string(), name: z.string() })).describe('Own names of what is not there any more.'),
  }),
})

export const namesFile = operation('GET /outlets/{id}/names.csv', {
  group,
  needs: 'look',
  does: 'The short names as a file (RFC 4180).',
  answer: z.string(),
  as: 'csv',
})

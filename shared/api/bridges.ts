import { checks, walk } from './pathChecks'
import { z } from 'zod'
import { bridgeChange, savedBridge } from '../bridges/bridge'
import { bridgePreview, bridgeTrial, refusedRecord, refusedValue, settledRecords } from '../bridges/preview'
import { bridgeRun } from '../bridges/status'
import { bridgeContract } from '#core/bridges/settings'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Bridges'

const example: z.input<typeof bridgeContract> = {
  name: 'Berth 2 power to the gateway',
  when: [{ kind: 'period', every: 100 }],
  take: [{ name: 'power', kind: 'tag', path: 'berth/2/shore/active_power' }],
  send: [{ kind: 'tags', number: 1, fields: [{ into: 'gateway/power', from: 'power' }], away: { keep: 'latest' } }],
}

export const listBridges = operation('GET /bridges', {
  group,
  needs: 'look',
  does: 'The bridges: what is sent on to where.',
  query: listQuery(['name', 'id', 'revision'], listWhole),
  answer: pageOf(savedBridge),
})

export const makeBridge = operation('POST /bridges', {
  group,
  needs: 'configure',
  does: 'Makes a bridge.',
  body: bridgeContract,
  example,
  size: 'many',
  answer: savedBridge,
  faults: ['entry.taken'],
})

export const showBridge = operation('GET /bridges/{id}', { group, needs: 'look', does: 'A bridge.', answer: savedBridge })

export const changeBridge = operation('PUT /bridges/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a bridge, unless somebody else did since.',
  body: bridgeChange,
  example: { revision: 9, bridge: example },
  size: 'many',
  answer: savedBridge,
  faults: ['entry.taken', 'entry.edited'],
})

export const removeBridge = operation('DELETE /bridges/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a bridge, and with it what it keeps for its receivers.',
  answer: removed,
})

export const previewBridge = operation('POST /bridges/preview', {
  group,
  needs: 'look',
  does: 'What a bridge would send now, and how it fits there. Nothing is sent and nothing written.',
  body: bridgeTrial,
  example: { bridge: example },
  size: 'many',
  answer: bridgePreview,
  engine: true,
})

export const runBridge = operation('POST /bridges/{id}/run', {
  group,
  needs: 'operate',
  does: 'Runs a bridge once, now.',
  answer: z.object({ run: z.int().describe('The number of the run.') }),
  engine: true,
  faults: ['bridge.off'],
})

export const walkBridge = operation('POST /bridges/{id}/check', {
  ...walk,
  group,
  does: 'Walks the way of a bridge’s records, from what sets it off to what each receiver said last; nothing is sent. One line per step.',
})

export const bridgeChecks = operation('GET /bridges/{id}/checks', {
  ...checks,
  group,
  does: 'The last checks of a bridge, those that were made by themselves when it broke included; the newest first.',
})

export const listRuns = operation('GET /bridges/{id}/runs', {
  group,
  needs: 'look',
  does: 'The last runs of a bridge: every one that failed, and some of the others where there are many.',
  query: listQuery(['number'], listWhole),
  answer: pageOf(bridgeRun),
  engine: true,
})

export const listRefused = operation('GET /bridges/{id}/refused', {
  group,
  needs: 'look',
  does: 'Records that receivers refused for good, the oldest first.',
  query: listQuery(['at', 'destination'], listWhole),
  answer: pageOf(refusedRecord),
  engine: true,
})

export const settleRefused = operation('POST /bridges/{id}/refused', {
  group,
  needs: 'operate',
  does: 'Sends refused records once more, or drops them.',
  body: z.object({ keys: z.array(z.string().max(200)).min(1).max(1000), then: z.enum(['send', 'drop']) }),
  example: { keys: ['r/0000000001/0001/0000001764171900000/0000000000000001/000000'], then: 'send' },
  answer: settledRecords,
  engine: true,
  faults: ['bridge.off', 'bridge.spool'],
})

export const mendRefused = operation('POST /bridges/{id}/mend', {
  group,
  needs: 'operate',
  does: 'Sends a refused record once more, with some of its values set right.',
  body: z.object({ key: z.string().max(200), values: z.array(refusedValue).max(200) }),
  example: { key: 'r/0000000001/0001/0000001764171900000/0000000000000001/000000', values: [{ into: 'kwh', text: '7000' }] },
  answer: z.object({ sent: z.literal(true) }),
  engine: true,
  faults: ['bridge.no-record', 'bridge.off', 'bridge.spool'],
})

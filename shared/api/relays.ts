import { z } from 'zod'
import { idField } from '#core/contracts/fields'
import { codeDraft, pairingOffer, redeemed, relay } from '../pairing'
import { checkPart } from '../diagnosis'
import { operation } from './operation'

const group = 'Relays'
const exampleCode = '10.20.0.5:4843/2000-20G3-0G2G-C1R8-ZYGV-5GYM-WQV0-EASZ'

export const listRelays = operation('GET /relays', {
  group,
  needs: 'look',
  does: 'The links and outlets that are paired with another copy of this application, and what is decided about each.',
  answer: z.array(relay),
})

export const endRelay = operation('POST /relays/end', {
  group,
  needs: 'configure',
  does: 'Ends a pairing from this side: the other copy’s certificate is refused from now on. The link or outlet stays, to be paired again or removed.',
  body: z.object({ of: z.enum(['link', 'outlet']), id: idField('An id') }),
  example: { of: 'link', id: 4 },
  answer: z.object({ ended: z.string().describe('The name of the link or outlet.'), revision: z.int() }),
  faults: ['entry.gone', 'pairing.not-paired'],
})

export const listPairingCodes = operation('GET /relays/codes', {
  group,
  needs: 'configure',
  does: 'The codes that were made here since the engine started, the newest first, and what became of each.',
  answer: z.array(pairingOffer),
  engine: true,
})

export const makePairingCode = operation('POST /relays/codes', {
  group,
  needs: 'configure',
  does: 'Makes a code by which another copy pairs with this one: for one use, and for a short while.',
  body: codeDraft,
  example: { values: 'to-maker', host: '10.20.0.5', port: 4843 },
  answer: pairingOffer,
  engine: true,
  faults: ['pairing.most', 'port.in-use', 'outlet.no-interface', 'outlet.no-right', 'outlet.failed'],
})

export const withdrawPairingCode = operation('DELETE /relays/codes/{id}', {
  group,
  needs: 'configure',
  does: 'Withdraws a code: nobody comes by it any more.',
  answer: z.object({ withdrawn: z.int() }),
  engine: true,
  faults: ['entry.gone'],
})

export const pairByCode = operation('POST /relays/pair', {
  group,
  needs: 'configure',
  does: 'Pairs by a code of another copy, one line per step as it happens: both prove themselves, decide in one step, and come together.',
  body: redeemed,
  example: { code: exampleCode },
  answer: checkPart,
  as: 'lines',
  engine: true,
  farSide: true,
  faults: ['pairing.code', 'pairing.itself'],
})

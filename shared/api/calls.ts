import { z } from 'zod'
import { callOutcomes } from '#core/calls/call'
import { numberText } from '#core/contracts/fields'
import { callPage, callTotals, clientCall } from '../calls'
import { operation } from './operation'

const group = 'Outlets'
const mostAtOnce = 500
const place = numberText(0, Number.MAX_SAFE_INTEGER)

const filter = {
  client: place.optional().describe('The number of a client.'),
  text: z.string().max(200).optional().describe('Only calls that hold all these words: in client, service, items, values or status.'),
  outcome: z.enum(callOutcomes).optional(),
}
const common = { group, needs: 'operate', engine: true } as const

export const listCalls = operation('GET /outlets/{id}/calls', {
  ...common,
  does: 'What clients asked of an outlet, and what they were given: the last 5,000 that were held, the newest first. While nobody asks, of very many calls a part is held: 50 a second of those answered well, and 50 of the others.',
  query: {
    ...filter,
    after: place.optional().describe('Only calls with a greater number.'),
    before: place.optional().describe('Only calls with a lesser number.'),
    limit: numberText(1, mostAtOnce).default(200),
  },
  answer: callPage,
})

export const showCallTotals = operation('GET /outlets/{id}/calls/totals', {
  ...common,
  does: 'What each client asked since the last reset, and what was asked for in vain.',
  answer: callTotals,
})

export const resetCallTotals = operation('POST /outlets/{id}/calls/reset', {
  ...common,
  does: 'Counts the calls of an outlet anew from now on. Calls that are held stay.',
  body: z.object({}),
  example: {},
  answer: z.object({ since: z.iso.datetime() }),
})

const callLine = clientCall.extend({ at: z.iso.datetime() })
const fileOf = (what: string) => `The calls as ${what}, the newest first: all of those held that match.`
export const callsText = operation('GET /outlets/{id}/calls.txt', {
  ...{ ...common, does: fileOf('text'), query: filter, answer: z.string(), as: 'text' },
})
export const callsCsv = operation('GET /outlets/{id}/calls.csv', {
  ...{ ...common, does: fileOf('CSV (RFC 4180), an item a row'), query: filter, answer: z.string(), as: 'csv' },
})
export const callsLines = operation('GET /outlets/{id}/calls.jsonl', {
  ...{ ...common, does: fileOf('JSON, a line each'), query: filter, answer: callLine, as: 'lines' },
})

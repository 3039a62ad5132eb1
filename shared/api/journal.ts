import { z } from 'zod'
import { severities } from '#core/journal/entry'
import { forwardingContract } from '#core/journal/settings'
import { momentField, numberText } from '#core/contracts/fields'
import { deedKinds, listedDeed } from '../deeds'
import { journalEntry, journalUse, keepingOfJournal } from '../journal'
import { before, listQuery, logPageOf } from './lists'
import { operation } from './operation'

const group = 'Journal'
const moment = numberText(0, Number.MAX_SAFE_INTEGER)

const { find } = listQuery(['-id'])
const filter = {
  find,
  severity: z.enum(severities).optional(),
  source: z.string().max(240).optional().describe('Only what this link, outlet, bridge or part told.'),
  from: moment.optional().describe('Unix milliseconds: only what happened from then on.'),
  to: moment.optional().describe('Unix milliseconds: only what happened before.'),
}

export const listJournal = operation('GET /journal', {
  group,
  needs: 'look',
  does: 'What happened, the newest first. What happened again within ten minutes is one entry with a count.',
  query: { ...listQuery(['-id', 'source']), before, ...filter },
  answer: logPageOf(journalEntry),
})

const bar = z.object({ at: momentField, note: z.int(), caution: z.int(), trouble: z.int() })

export const journalPicture = operation('GET /journal/picture', {
  group,
  needs: 'look',
  does: 'How often something happened over time, in at most 60 bars.',
  query: filter,
  answer: z.object({
    width: z.int().describe('How long a bar is, ms.'),
    bars: z.array(bar),
    isWhole: z.boolean().describe('False: only the newest were counted, and the bars begin where they do.'),
  }),
})

const fileOf = (what: string) => `The journal as ${what}, the newest first: all of it that matches.`

export const journalText = operation('GET /journal.txt', {
  ...{ group, needs: 'look', does: fileOf('text, a line each'), query: filter, answer: z.string(), as: 'text' },
})
export const journalCsv = operation('GET /journal.csv', {
  ...{ group, needs: 'look', does: fileOf('CSV (RFC 4180)'), query: filter, answer: z.string(), as: 'csv' },
})
export const journalLines = operation('GET /journal.jsonl', {
  ...{ group, needs: 'look', does: fileOf('JSON, a line each'), query: filter, answer: journalEntry, as: 'lines' },
})

export const showJournalKeeping = operation('GET /journal/keeping', {
  group,
  needs: 'look',
  does: 'Where events are kept, how many, for how long, and what that takes now.',
  answer: z.object({ keeping: keepingOfJournal, use: journalUse }),
})

export const keepJournal = operation('PUT /journal/keeping', {
  group,
  needs: 'administer',
  does: 'Says where events are kept, how many and for how long, and where they go besides. What is too old or too much goes.',
  body: keepingOfJournal,
  example: { where: 'database', most: 200_000, days: 365, mostMb: 1000, deedDays: null, forward: null },
  answer: keepingOfJournal,
})

export const tryForwarding = operation('POST /journal/forwarding/try', {
  group,
  needs: 'administer',
  does: 'Sends one message to a syslog server, before it is saved. Over UDP nobody tells whether it arrived.',
  body: forwardingContract,
  example: { host: '10.8.0.9', port: 514, over: 'udp' },
  answer: z.object({ sent: z.literal(true) }),
  engine: true,
  farSide: true,
})

export const listDeeds = operation('GET /deeds', {
  group,
  needs: 'administer',
  does: 'What people did besides changes of the configuration and writes: who signed in or was refused, and what was taken along.',
  query: { ...listQuery(['-id', 'who']), before, kind: z.enum(deedKinds).optional() },
  answer: logPageOf(listedDeed),
})

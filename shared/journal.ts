import { z } from 'zod'
import { severities } from '#core/journal/entry'
import { journalKeeping } from '#core/journal/settings'
import { faultContract } from './faults'

export const journalEntry = z
  .object({
    id: z.int(),
    at: z.iso.datetime().describe('The first time.'),
    lastAt: z.iso.datetime().describe('The last time, where it happened again within ten minutes.'),
    times: z.int().describe('How often it happened in that while.'),
    severity: z.enum(severities),
    source: z.string(),
    text: z.string(),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'JournalEntry' })
export type JournalEntry = z.output<typeof journalEntry>

/** How handing events on to a syslog server goes. */
export const forwardingStatus = z
  .object({
    isOpen: z.boolean(),
    sent: z.int(),
    waiting: z.int(),
    dropped: z.int().describe('What could wait no longer.'),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'ForwardingStatus' })
export type ForwardingStatus = z.output<typeof forwardingStatus>

export const keepingOfJournal = journalKeeping.meta({
  id: 'JournalKeeping',
  description: 'Where events are kept, how many and for how long, and where they go besides.',
})

export const journalUse = z
  .object({
    entries: z.int().describe('About how many there are.'),
    mb: z.number().nullable().describe('Space in the database, with all that belongs to it; null: they are in memory.'),
    since: z.iso.datetime().nullable().describe('The oldest; null: there is none.'),
    writes: z.int().describe('About how many writes are recorded.'),
    deeds: z.int().describe('About how many deeds are recorded.'),
    isIndexed: z.boolean().describe('Whether words are found without looking at every entry.'),
    forwarding: forwardingStatus.nullable(),
  })
  .meta({ id: 'JournalUse', description: 'What the journal takes now.' })
export type JournalUse = z.output<typeof journalUse>

import { z } from 'zod'
import { hostField, idField, lineField, momentField, portField, wholeNumber } from '#core/contracts/fields'
import { pathProblem } from '#core/tags/path'
import { checkStep } from './status'
import { faultContract } from './faults'

const folder = z
  .string()
  .trim()
  .max(160, 'A folder has at most 160 characters.')
  .overwrite((path) => path.replace(/^\/+|\/+$/g, ''))
  .superRefine((path, context) => {
    const problem = path === '' ? null : pathProblem(path)
    if (problem) context.addIssue({ code: 'custom', message: problem })
  })

const again = idField('An id').nullable().default(null)

/** What the copy that takes values wishes for itself. */
export const takeWishes = z.object({
  name: lineField('A name', 80).default('').describe('Of the link that it becomes; empty: as the other site is called.'),
  folder: folder.default('').describe('Where its tags stand; empty: in a folder by its name.'),
  again: again.describe('A link that was paired before, and is to be again; null: a new one.'),
})

/** What the copy whose values are taken allows. */
export const giveWishes = z.object({
  name: lineField('A name', 80).default('').describe('Of the outlet that it becomes; empty: as the other site is called.'),
  folder: folder.default('').describe('What of the site goes there; empty: all of it.'),
  may: z.enum(['read', 'write']).default('read').describe('What may be done there with its tags.'),
  onRequest: z.boolean().default(true).describe('Points of our links that no tag covers may be asked for.'),
  again: again.describe('An outlet that was paired before, and is to be again; null: a new one.'),
})

export type TakeWishes = z.output<typeof takeWishes>
export type GiveWishes = z.output<typeof giveWishes>

const noHost = 'Type where the other copy reaches this machine: a name or a numeric address.'
const place = {
  host: z
    .string({ error: noHost })
    .trim()
    .min(1, noHost)
    .pipe(hostField)
    .describe('Where the other copy reaches this one: a name or a numeric address, outside of address translation.'),
  outsidePort: portField.nullable().default(null).describe('The port there, where address translation makes another one of it.'),
  interface: z
    .union([z.ipv4(), z.ipv6()], { error: 'The numeric address of an interface; 0.0.0.0 for all.' })
    .default('0.0.0.0')
    .describe('The interface of this machine that listens.'),
  port: portField.default(4843),
  minutes: wholeNumber('How long it holds', 1, 120).default(15).describe('How long the code holds, minutes.'),
}

/** A code that is to be made. */
export const codeDraft = z.discriminatedUnion('values', [
  z.object({ values: z.literal('to-maker'), ...place, take: takeWishes.prefault({}) }),
  z.object({ values: z.literal('from-maker'), ...place, give: giveWishes.prefault({}) }),
])
export type CodeDraft = z.output<typeof codeDraft>

/** What is done with a code of the other copy. Which of both wishes counts, the code says. */
export const redeemed = z.object({
  code: z.string().trim().min(1, 'The code that the other copy shows.').max(400, 'A code has at most 400 characters.'),
  take: takeWishes.prefault({}),
  give: giveWishes.prefault({}),
})
export type Redeemed = z.output<typeof redeemed>

export const pairingStates = ['open', 'pairing', 'done', 'withdrawn', 'run-out', 'failed'] as const

const madeThing = z.object({ of: z.enum(['link', 'outlet']), id: z.int(), name: z.string(), revision: z.int() })
/** What a pairing made here. */
export type PairedThing = z.output<typeof madeThing>

/** A code that was made here since the engine started, and what became of it. */
export const pairingOffer = z
  .object({
    id: z.int(),
    code: z.string().describe('The line that the other copy is to get; empty once it is of no more use.'),
    values: z.enum(['to-maker', 'from-maker']),
    state: z.enum(pairingStates),
    madeAt: momentField,
    endsAt: momentField,
    by: z.string().describe('Who made it.'),
    tries: z.int().describe('Wrong proofs that came so far.'),
    steps: z.array(checkStep).describe('How the last attempt went.'),
    partner: z.object({ name: z.string(), fingerprint: z.string(), from: z.string() }).nullable(),
    made: madeThing.nullable(),
    fault: faultContract.nullable().describe('Why it came to nothing.'),
  })
  .meta({ id: 'PairingOffer' })
export type PairingOffer = z.output<typeof pairingOffer>

/** A link or an outlet that is paired. */
export const relay = z
  .object({
    ...madeThing.omit({ revision: true }).shape,
    on: z.boolean(),
    partner: z.string(),
    fingerprint: z.string(),
    verdict: z.enum(['trusted', 'refused', 'unknown']).describe('What is decided here about its certificate.'),
    dials: z.enum(['here', 'there']).describe('Which side opens the connection.'),
    at: z.string().describe('Where the other is dialled, or awaited.'),
  })
  .meta({ id: 'Relay' })
export type Relay = z.output<typeof relay>

import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { changeText, type Change } from '#core/diagnosis/changes'
import type { WayRound } from '#core/diagnosis/wayRound'
import { cause } from './causes'
import { checkStep } from './status'

/** What a check of a path comes to, and what is kept of it. */

const sighting = z
  .object({
    id: z.string(),
    title: z.string(),
    outcome: z.enum(['sound', 'wrong', 'open']).describe('“open”: it could not be measured, or says nothing either way.'),
    evidence: z.string(),
    ms: z.number().nullable(),
  })
  .meta({ id: 'Sighting', description: 'Something that was measured beside the steps, once one of them had failed.' })
export type Sighting = z.output<typeof sighting>

const change: z.ZodType<Change> = z
  .object({
    what: z.enum(Object.keys(changeText) as [Change['what'], ...Change['what'][]]),
    before: z.string(),
    now: z.string(),
  })
  .meta({ id: 'PathChange', description: 'Something that is otherwise than when the path last worked.' })

export const passedPiece = z
  .object({
    at: z.number().describe('Unix milliseconds, with a fraction.'),
    connection: z.int(),
    peer: z.string(),
    out: z.boolean().describe('From here to the far side.'),
    length: z.int(),
    bytes: z.string().describe('The first of them as Base64.'),
  })
  .meta({ id: 'PassedPiece' })
export type PassedPiece = z.output<typeof passedPiece>

const wayRound: z.ZodType<WayRound> = z
  .object({ reaches: z.string().describe('What that copy has to reach, from where it stands.') })
  .meta({ id: 'WayRound', description: 'A second copy beside the far side, paired with this one, where the direct way cannot be had.' })

export const verdict = z
  .object({
    at: momentField,
    step: z.string().describe('The step that failed.'),
    causes: z.array(cause).describe('The likeliest first; those that are ruled out come last.'),
    looked: z.array(sighting),
    lastGood: momentField.nullable().describe('When it last worked, as far as is known.'),
    changes: z.array(change).describe('What is otherwise since then.'),
    wayRound: wayRound.nullable().default(null).describe('Null: a second copy over there would not help.'),
    exchange: z
      .object({ good: z.array(passedPiece), failed: z.array(passedPiece) })
      .nullable()
      .describe('The last exchange that worked and what passed after it; null: nothing is remembered.'),
  })
  .meta({ id: 'Verdict', description: 'What a stop on a path means.' })
export type Verdict = z.output<typeof verdict>

/** A check is a stream of these: steps as they go, and what a stop means. */
export const checkPart = z.union([checkStep, z.object({ verdict })])
export type CheckPart = z.output<typeof checkPart>

export const pathKinds = ['link', 'outlet', 'bridge', 'tag'] as const
export type PathKind = (typeof pathKinds)[number]

export const pathRecord = z
  .object({
    n: z.int(),
    of: z.enum(pathKinds),
    id: z.int(),
    at: momentField,
    ms: z.number().describe('How long all of it took.'),
    why: z.enum(['asked', 'failure', 'recovery']).describe('Somebody asked for it; it broke, or came back.'),
    outcome: z.enum(['sound', 'stopped', 'unfinished']),
    steps: z.array(checkStep),
    verdict: verdict.nullable(),
  })
  .meta({ id: 'PathRecord', description: 'A check of a path that was made.' })
export type PathRecord = z.output<typeof pathRecord>

import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { sideText, type Side } from '#core/faults/catalogue'
import { changeText, type Change } from '#core/diagnosis/changes'
import type { Cause } from '#core/diagnosis/rank'
import type { WayRound } from '#core/diagnosis/wayRound'
import { checkStep } from './status'

/** What a check of a path comes to, and what is kept of it. */

const sides = Object.keys(sideText) as [Side, ...Side[]]

const cause: z.ZodType<Cause> = z
  .object({
    id: z.string().describe('Which of the known causes it is; for programs.'),
    title: z.string(),
    side: z.enum(sides).describe('Whose side it is on.'),
    where: z.string().describe('At which machine something is to be done.'),
    next: z.array(z.string()).describe('What to do there, in order.'),
    for: z.array(z.string()).describe('What was seen that speaks for it.'),
    against: z.array(z.string()).describe('What was seen that speaks against it.'),
    isRuledOut: z.boolean().describe('What was measured leaves no room for it.'),
    unmeasured: z.string().nullable().describe('What would tell and was not measured, and how a person finds out.'),
  })
  .meta({ id: 'Cause', description: 'A cause that a stop may have.' })

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

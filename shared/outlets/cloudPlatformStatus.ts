import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { flow } from '../flow'
import { faultContract } from '../faults'

const notTaken = z
  .object({
    path: z.string().describe('Of the tag.'),
    count: z.int().describe('Values since the outlet was opened.'),
    why: z.string(),
    at: momentField.describe('When it was last refused.'),
  })
  .meta({ id: 'ValuesNotTaken' })
export type ValuesNotTaken = z.output<typeof notTaken>

const plannedStep = z
  .object({
    what: z.enum(['class', 'equipment']),
    how: z.enum(['make', 'match', 'change', 'remove']).describe('“match”: it is there already, by its name and not yet as ours.'),
    name: z.string(),
    differences: z.array(z.string()),
    problem: z.string().nullable().describe('Why it is not done; null: it may be.'),
  })
  .meta({ id: 'PlannedStep' })
export type ShownStep = z.output<typeof plannedStep>

/** How the model over there is, beside the one here. */
export const modelState = z.enum(['off', 'not read', 'alike', 'differs', 'being changed'])

export const modelPlan = z
  .object({
    state: modelState,
    digest: z.string().describe('By what the plan is known again.'),
    readAt: momentField.nullable().describe('When the platform was last asked for its model.'),
    there: z.object({ classes: z.int(), equipment: z.int() }),
    here: z.object({ classes: z.int(), equipment: z.int() }),
    steps: z.array(plannedStep).describe('The first of what is to be done there.'),
    stepCount: z.int(),
    removals: z.int().describe('So many of them remove something.'),
    hindered: z.int().describe('So many of them are not done, and why stands with them.'),
    refused: z.array(z.object({ name: z.string(), why: z.string() })).describe('What the platform refused when it was last changed.'),
    fault: faultContract.nullable().describe('Why the platform could not be asked.'),
  })
  .meta({ id: 'ModelPlan', description: 'What is to be done at a platform so that its model is the one of this site.' })
export type ModelPlan = z.output<typeof modelPlan>

/** How a platform takes what it is sent, beyond what every outlet tells. */
export const cloudPlatformDetails = z
  .object({
    kind: z.literal('cloud-platform'),
    model: z.object({
      state: modelState,
      steps: z.int().describe('To be done there.'),
      hindered: z.int(),
      refused: z.int(),
      classes: z.int(),
      equipment: z.int(),
    }),
    delivery: z.object({
      flow,
      fault: faultContract.nullable(),
      sent: z.int().describe('Values that the platform took since the outlet was opened.'),
      sentPerSecond: z.number(),
      waiting: z.int().describe('Values that are not there yet.'),
      waitingBytes: z.int(),
      behind: z.number().describe('So old is the oldest of them, ms.'),
      lost: z.int().describe('Values for which no room was left.'),
      refused: z.int(),
      lastAt: momentField.nullable().describe('When it last took something.'),
      pausedUntil: momentField.nullable().describe('It wants to be left alone until then.'),
      clockAhead: z.number().nullable().describe('So far its clock is ahead of ours, ms; null: it does not tell.'),
    }),
    notTaken: z.array(notTaken).describe('The tags of which something was refused, the last first.'),
  })
  .meta({ id: 'CloudPlatformDetails' })
export type CloudPlatformDetails = z.output<typeof cloudPlatformDetails>

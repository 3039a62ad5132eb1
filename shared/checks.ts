import { z } from 'zod'
import { lineField, momentField, nameField, wholeNumber } from '#core/contracts/fields'
import { outcomes, pointStates, ways } from '#core/checks/state'
import { dataTypes } from '#core/tags/types'
import { faultContract } from './faults'
import { valueNames } from './valueNames'

/** Point by point check-out against a far side. */

export const mostCheckPoints = 20_000
const mostAtOnce = 500

const differences = z.array(z.object({ field: z.string(), before: z.string().nullable(), after: z.string().nullable() }))

/** What was shown, without what no database keeps. */
const shownText = (most: number) =>
  z
    .string()
    .max(most)
    .refine((text) => !text.includes('\0'), 'A text has no NUL.')

const evidence = z
  .object({
    at: momentField,
    value: lineField('A value', 400),
    quality: wholeNumber('A quality', 0, 0xffffffff),
    stages: z
      .array(z.object({ title: shownText(400), text: shownText(2000), detail: shownText(2000), at: momentField.optional() }))
      .max(20, 'At most 20 stages.')
      .describe('How the value was made at that moment, from the bytes.'),
    frames: z
      .array(
        z.object({
          at: momentField,
          out: z.boolean().describe('From here to the far side.'),
          length: wholeNumber('A length', 0, 0xffffffff).describe('Bytes on the wire.'),
          bytes: z.base64({ error: 'Bytes are Base64.' }).max(4096, 'Of a frame at most 3,072 bytes.').describe('The first of them.'),
          summary: shownText(400),
        }),
      )
      .max(4, 'At most 4 frames.')
      .default([])
      .describe('What was asked, and the answer that brought the value.'),
  })
  .meta({ id: 'CheckEvidence' })
export type CheckEvidence = z.output<typeof evidence>
export const takenEvidence = evidence
export const evidenceAsked = z.object({ tag: z.int().min(1) })

const sheetShape = {
  name: nameField('sheet'),
  against: lineField('The far side', 200).default('').describe('Against what it is checked: a panel, a SCADA, a controller.'),
  note: lineField('A note', 500).default(''),
}
export const checkSheetDraft = z.object(sheetShape)
export type CheckSheetDraft = z.output<typeof checkSheetDraft>

const folder = lineField('A folder', 400)
export const newCheckSheet = checkSheetDraft.extend({
  below: z.array(folder).max(100, 'At most 100 folders.').default([]).describe('Folders: all tags that lie in them now.'),
  tags: z.array(z.int().min(1)).max(mostCheckPoints, `At most ${mostCheckPoints} tags.`).default([]),
  from: z
    .int()
    .min(1)
    .nullable()
    .default(null)
    .describe('Another sheet: those of its points that have to be checked again, or are not good.'),
})
export const changedCheckSheet = checkSheetDraft.extend({
  add: z.array(folder).max(100, 'At most 100 folders.').default([]).describe('Tags, or folders with all that lies in them now.'),
  remove: z.array(z.int().min(1)).max(mostCheckPoints).default([]).describe('Points by their tags; what was checked of them goes as well.'),
})

const counts = z.object(Object.fromEntries(pointStates.map((state) => [state, z.int()])) as Record<(typeof pointStates)[number], z.ZodInt>)

export const checkSheet = z
  .object({
    id: z.int(),
    name: z.string(),
    against: z.string(),
    note: z.string(),
    madeBy: z.string(),
    madeAt: momentField,
    closedBy: z.string().nullable(),
    closedAt: momentField.nullable().describe('When nothing could be added any more; null: it is worked on.'),
    digest: z.string().nullable().describe('SHA-256 of all that was checked when it was closed.'),
    points: z.int(),
    counts: counts.describe('Points by how they are.'),
  })
  .meta({ id: 'CheckSheet' })
export type CheckSheet = z.output<typeof checkSheet>

export const checkSheetWhole = checkSheet.extend({
  digestNow: z.string().describe('The same as it is now: another one than when it was closed says that something was changed since.'),
  touched: z
    .array(z.object({ what: z.enum(['added', 'removed', 'changed']), path: z.string().nullable() }))
    .describe('What was changed since it was closed: points by their paths, null for the sheet itself.'),
})

const checkedOnce = z
  .object({
    id: z.int().describe('Counts up over all checks.'),
    at: momentField,
    receivedAt: momentField,
    who: z.string(),
    way: z.enum(ways),
    expected: z.string(),
    seen: z.string(),
    outcome: z.enum(outcomes),
    remark: z.string(),
    evidence: evidence.nullable(),
    revision: z.int().describe('Of the configuration, when it was taken in.'),
  })
  .meta({ id: 'CheckedOnce' })
export type CheckedOnce = z.output<typeof checkedOnce>

/** A list of points does not carry what was attached. */
const lastCheck = checkedOnce.omit({ evidence: true }).extend({ isAttached: z.boolean().describe('Whether there is evidence.') })

export const checkPoint = z
  .object({
    tag: z.int(),
    path: z.string(),
    source: z.string().describe('Where its value comes from, for a person.'),
    unit: z.string(),
    writable: z.boolean(),
    type: z.enum(dataTypes),
    names: valueNames,
    state: z.enum(pointStates),
    changed: differences.describe('What is another thing since it was checked last.'),
    checks: z.int().describe('How often it was checked.'),
    last: lastCheck.nullable(),
  })
  .meta({ id: 'CheckPoint' })
export type CheckPoint = z.output<typeof checkPoint>

export const checkDraft = z.object({
  key: z.uuid({ error: 'A key is a UUID.' }).describe('Made where it is checked: what is sent twice counts once.'),
  tag: z.int().min(1),
  at: z
    .number({ error: 'A time is Unix milliseconds.' })
    .min(0, 'A time is after 1970.')
    .max(4_102_444_800_000, 'A time is before 2100.')
    .describe('When it was checked; Unix milliseconds.'),
  way: z.enum(ways, { error: `A way is ${ways.join(', ')}.` }),
  expected: lineField('What is expected', 200).default(''),
  seen: lineField('What was seen', 200).default(''),
  outcome: z.enum(outcomes, { error: `An outcome is ${outcomes.join(', ')}.` }),
  remark: lineField('A remark', 500).default(''),
  evidence: evidence.nullable().default(null),
})
export type CheckDraft = z.output<typeof checkDraft>
export const checksTaken = z.object({ checks: z.array(checkDraft).min(1).max(mostAtOnce, `At most ${mostAtOnce} checks at once.`) })
export const checksAnswer = z.object({
  taken: z.array(z.string()).describe('The keys of those that are in, now or before.'),
  refused: z.array(z.object({ key: z.string(), fault: faultContract })),
})
export const checkedOnceList = z.array(checkedOnce)

/** Where somebody is at work; who says nothing for a while is nowhere. */
export const checkPlace = z.object({ tag: z.int().min(1).nullable().describe('The point that is before somebody; null: none.') })
export const checkCompany = z
  .object({
    revision: z.int().describe('Of the configuration.'),
    last: z.int().describe('The last check of this sheet; 0: there is none.'),
    points: z.int(),
    isClosed: z.boolean(),
    people: z.array(z.object({ who: z.string(), tag: z.int() })).describe('Others, and at which point they are.'),
  })
  .meta({ id: 'CheckCompany' })
export type CheckCompany = z.output<typeof checkCompany>

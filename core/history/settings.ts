import { z } from 'zod'
import { milliseconds, wholeNumber } from '../contracts/fields'
import { isPattern, patternProblem } from '../tags/pattern'

/** Which tags are recorded and how, and how long what was recorded is kept. */

const changeContract = z.object({
  kind: z.literal('change'),
  band: z
    .number({ error: 'A deadband is a number.' })
    .min(0, 'A deadband is not below 0.')
    .default(0)
    .describe('A value is recorded once it is further away than this from the last one that was, in the tag’s unit; 0: every change.'),
})
const periodContract = z.object({
  kind: z.literal('period'),
  every: milliseconds('The time between two samples', 100, 86_400_000).describe('At whole multiples of it; ms.'),
})
const notContract = z.object({ kind: z.literal('not') }).describe('Leaves out what a wider recording would take.')

export const recordingContract = z.object({
  pattern: z
    .string({ error: 'The path of a tag, or a pattern of paths, is text.' })
    .trim()
    .min(1, 'The path of a tag, or a pattern of paths, as in berth/**.')
    .max(400, 'At most 400 characters.')
    .superRefine((text, context) => {
      const problem = text === '' ? null : patternProblem(text)
      if (problem !== null) context.addIssue({ code: 'custom', message: problem })
    }),
  how: z.discriminatedUnion('kind', [changeContract, periodContract, notContract], {
    error: 'How it is recorded is change, period or not.',
  }),
})
export type RecordingDraft = z.output<typeof recordingContract>
export type RecordingHow = RecordingDraft['how']

const days = (what: string) => wholeNumber(`Days of ${what}`, 1, 36_500)

/** How long each tier is kept, days; and how much space all of them may take. */
export const keepingContract = z
  .object({
    sample: days('single samples').default(90),
    second: days('seconds').default(30),
    minute: days('minutes').default(730),
    hour: days('hours').nullable().default(null).describe('Null: for ever.'),
    mostGb: z
      .number({ error: 'A size is a number of GB.' })
      .min(0.1, 'At least 0.1 GB.')
      .max(1_000_000, 'At most 1,000,000 GB.')
      .nullable()
      .default(null)
      .describe('GB of all that was recorded; above it the oldest single samples go first. Null: as much as there is.'),
    whenShort: z
      .enum(['drop', 'stop'], { error: 'What happens when the disk is short is drop or stop.' })
      .default('drop')
      .describe(
        'When the disk is short. drop: the oldest single samples give way. stop: nothing does, and recording stops before the disk is full.',
      ),
  })
  .refine(({ sample, minute }) => minute >= sample, { message: 'Minutes are kept at least as long as single samples.', path: ['minute'] })
  .refine(({ minute, hour }) => hour === null || hour >= minute, { message: 'Hours are kept at least as long as minutes.', path: ['hour'] })
export type HistoryKeeping = z.output<typeof keepingContract>

/** Whether a recording is of one tag only. */
export const isOfOne = ({ pattern }: Pick<RecordingDraft, 'pattern'>) => !isPattern(pattern)

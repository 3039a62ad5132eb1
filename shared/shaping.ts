import { z } from 'zod'
import { deadbandKinds } from '#core/tags/reports'
import { isCode, oddWords } from '#core/tags/odd'
import { milliseconds } from '#core/contracts/fields'

/** Contracts of what becomes of a value between its source and those who get it. */

const choice = z
  .union([z.enum(oddWords), z.number()], { error: 'What becomes of it is pass, bad, last or a number that stands instead.' })
  .describe('`pass`: as it is; `bad`: the last value stays and is bad; `last`: it stays and is uncertain; a number: instead, uncertain.')

const code = z.object({
  raw: z
    .string({ error: 'An error code is a raw value.' })
    .trim()
    .max(80, 'An error code has at most 80 characters.')
    .refine(isCode, 'An error code is a raw value, as in -32768, 0x8000 or 32760..32767.')
    .describe('As the device sends it: `-32768`, its bits as `0x8000`, or all of `32760..32767`.'),
  then: choice.default('bad'),
})

/** What becomes of values that are odd; what is left out is as the link has it, and there as usual. */
export const oddValues = z
  .object({
    nan: choice.optional(),
    infinite: choice.optional(),
    denormal: choice.optional(),
    codes: z.array(code).max(50, 'At most 50 error codes.').optional().describe('Raw values by which the device says that it has none.'),
  })
  .meta({ id: 'OddValues' })

const positive = (what: string, most: number) =>
  z
    .number({ error: `${what} is a number.` })
    .positive(`${what} is above 0.`)
    .max(most, `${what} is at most ${most}.`)

/** Which changes are passed on. */
export const reportsContract = z
  .object({
    deadband: z
      .discriminatedUnion('kind', [
        z.object({ kind: z.literal(deadbandKinds[0]), value: positive('A deadband', Number.MAX_VALUE) }),
        z.object({ kind: z.literal(deadbandKinds[1]), value: positive('A deadband in percent', 100) }),
      ])
      .nullable()
      .default(null)
      .describe('A value counts once it is further away than this from the last one that was passed on; percent of the range.'),
    least: milliseconds('The least time', 10, 86_400_000).nullable().default(null).describe('Between two values at least, ms.'),
    most: milliseconds('The longest time', 100, 86_400_000)
      .nullable()
      .default(null)
      .describe('After so many ms without a change a confirmed value is passed on once more.'),
  })
  .refine(({ least, most }) => least === null || most === null || least <= most, {
    message: 'The longest time is not below the least.',
    path: ['most'],
  })
  .meta({ id: 'Reports' })

import { z } from 'zod'
import { numberText } from '#core/contracts/fields'

/** Every list of the API is asked for in one form, and answers in one. */

export const mostOfPage = 500
/** What a list of what goes on counts at most. */
export const mostCounted = 5000

const mostWords = 10

const find = z
  .string()
  .max(240)
  .refine((text) => text.trim().split(/\s+/).length <= mostWords, `At most ${mostWords} words.`)
  .optional()
  .describe(`Only what holds all of these words, in any order; at most ${mostWords}.`)

/** @param sorts by what it can be ordered; the first is the usual, with “-” the other way round. */
export const listQuery = <S extends string>(sorts: readonly [S | `-${S}`, ...S[]], most = mostOfPage) => {
  const [usual, ...others] = sorts
  const names = [...new Set([usual.replace(/^-/, '') as S, ...others])]
  return {
    find,
    sort: z
      .enum(names.flatMap((name) => [name, `-${name}` as const]) as [S | `-${S}`, ...(S | `-${S}`)[]])
      .default(usual as never)
      .describe('By what it is ordered; with “-” the other way round.'),
    offset: numberText(0).default(0).describe('How many to leave out before the first.'),
    limit: numberText(1, most).default(Math.min(100, most)).describe('How many at most.'),
  }
}

/** For lists that grow at their head while somebody turns the pages. */
export const before = numberText(1, Number.MAX_SAFE_INTEGER).optional().describe('Only what came before this one.')

/** A list that may be asked for whole. */
export const listWhole = 100_000

/** A page of a list. */
export const pageOf = <T extends z.ZodType>(item: T) =>
  z.object({
    total: z.int().describe('How many there are in all that match.'),
    offset: z.int(),
    items: z.array(item),
  })

/** A page of a list of what goes on, which may be endless. */
export const logPageOf = <T extends z.ZodType>(item: T) =>
  pageOf(item).extend({ total: z.int().describe(`How many match; ${mostCounted} stands for that many or more.`) })

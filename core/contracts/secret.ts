import { z } from 'zod'

/** A secret on its way: typed just now, kept where it is, or sealed for the database; or, where only a comparison is needed, its hash. */
export type Secret = { plain: string } | { kept: true } | { sealed: string } | { hashed: string }

/**
 * A secret inside settings. A person types `plain`; the database holds it `sealed`, or `hashed` where a
 * comparison is all that it is for; pages and programs are only told that one is `kept`, and send that back to leave it as it is.
 */
export const secretField = (needed: string): z.ZodType<Secret, Secret> => secretOf(needed).meta({ ...told })

/** What programs are told of it: how it is stored is no business of theirs. */
const told = {
  description: '“plain” gives a new one, “kept” leaves the one that there is; answers tell only that one is kept.',
  anyOf: [
    { type: 'object', properties: { plain: { type: 'string', minLength: 1, maxLength: 20_000 } }, required: ['plain'] },
    { type: 'object', properties: { kept: { type: 'boolean', const: true } }, required: ['kept'] },
  ],
}

const secretOf = (needed: string) =>
  z.union(
    [
      z.object({ plain: z.string().min(1, needed).max(20_000, 'A secret has at most 20,000 characters.') }),
      z.object({ kept: z.literal(true) }),
      z.object({ sealed: z.string() }),
      z.object({ hashed: z.string() }),
    ],
    { error: needed },
  )

import { z } from 'zod'

/** What becomes of a database that is no continuation of what is in force: it holds as it is, or what is in force comes back into it. */
export const choices = ['database', 'in force'] as const
export type Choice = (typeof choices)[number]

export const apart = z
  .object({
    subject: z.string().describe('As in links, tags, outlets.'),
    only: z.int().describe('Things that are in the database only.'),
    other: z.int().describe('Things that are others there than in force.'),
    missing: z.int().describe('Things that are in force, and missing there.'),
  })
  .meta({ id: 'ApartFromForce' })
export type Apart = z.output<typeof apart>

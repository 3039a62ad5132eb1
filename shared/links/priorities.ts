import { z } from 'zod'

/** Who holds a value that several write, by priorities (ANSI/ASHRAE 135, clause 19). */
export const priorities = z
  .object({
    levels: z.array(
      z.object({
        level: z.int().describe('1, the highest, to 16.'),
        use: z.string().describe('What the standard keeps it for; empty: for anything.'),
        text: z.string().nullable().describe('What is held there; null: nothing.'),
        ours: z.boolean().describe('Whether tags of ours are written there.'),
      }),
    ),
    usual: z.string().nullable().describe('The value where nobody holds it; null: not told.'),
    holds: z.int().nullable().describe('The level whose value it has; null: none.'),
    ours: z.int(),
  })
  .meta({ id: 'Priorities', description: 'Who holds a value that goes by priorities.' })
export type Priorities = z.output<typeof priorities>

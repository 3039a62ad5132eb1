import { z } from 'zod'

/** What people do besides changes of the configuration and writes, each of which has a record of its own. */
export const deedKinds = ['signed in', 'refused', 'signed out', 'took along', 'opened', 'closed'] as const
export type DeedKind = (typeof deedKinds)[number]

export const listedDeed = z
  .object({
    id: z.int(),
    at: z.iso.datetime(),
    who: z.string(),
    place: z.string().describe('The address it came from.'),
    kind: z.enum(deedKinds),
    what: z.string(),
    ok: z.boolean(),
  })
  .meta({ id: 'Deed', description: 'What somebody did besides changes of the configuration and writes.' })
export type ListedDeed = z.output<typeof listedDeed>

import { z } from 'zod'

/** What is answered when something of the configuration is gone: its id, or how many, and the revision that did it. */
export const removed = z.object({ removed: z.int(), revision: z.int() })

import { z } from 'zod'
import { cause } from './causes'
import { checkStep } from './status'

/** The half of a path that another copy walked: its steps, and what a stop among them comes from. */
export const farHalf = z.object({ steps: z.array(checkStep).max(200), causes: z.array(cause).max(100) })
export type FarHalf = z.output<typeof farHalf>

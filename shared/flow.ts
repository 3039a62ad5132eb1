import { z } from 'zod'

/** The state that every pipe glyph shows. */
export const flow = z.enum(['flowing', 'late', 'broken', 'off'])
export type Flow = z.output<typeof flow>

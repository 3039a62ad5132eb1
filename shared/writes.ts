import { z } from 'zod'
import type { Fault } from '#core/faults/catalogue'

/** Who writes a value, by which way, and from where. */
export const writer = z.object({
  who: z.string().max(200),
  via: z.enum(['page', 'token', 'client']),
  /** The address or outlet that it came by. */
  place: z.string().max(200),
})
export type Writer = z.output<typeof writer>

/** A record of a write, as pages and programs get it. */
export interface ListedWrite extends Writer {
  id: number
  at: string
  tagId: number | null
  path: string
  before: string | null
  value: string
  ok: boolean
  ms: number
  fault: Fault | null
}
